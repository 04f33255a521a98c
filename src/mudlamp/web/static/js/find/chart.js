// The chart: depth in our own inks with the wanted band strong, contours, track and swath, path, spots with their ellipses, the mark.

import { bytes } from "./api.js";

const FOOT = 0.3048;
const look = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
const rgb = (hex) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16));

export class Chart {
  constructor(canvas, raw) {
    this.canvas = canvas;
    this.raw = raw;
    this.depth = bytes(raw.shade);
    this.paths = raw.contours.map(([feet, lines]) => [feet, contourPath(lines)]);
    this.middle = [raw.launch[0] + 120, 0];
    this.scale = 2;
    this.follow = true;
    this.band = [9, 17];
    this.shade();
  }

  shade() {
    const { rows, columns } = this.raw;
    this.picture = new OffscreenCanvas(columns, rows);
    const context = this.picture.getContext("2d");
    const image = context.createImageData(columns, rows);
    const [paper, ink, band, land] = [rgb(look("--paper")), rgb(look("--muted")), rgb(look("--band")), rgb(look("--soft"))];
    for (let row = 0; row < rows; row += 1) {
      for (let column = 0; column < columns; column += 1) {
        const feet = this.depth[row * columns + column] / 20 / FOOT;
        const inside = feet >= this.band[0] && feet <= this.band[1];
        const share = Math.min(feet / 40, 1) * 0.45;
        const color = feet < 1.6 ? land : inside ? band.map((value, i) => 0.62 * value + 0.38 * paper[i]) : paper.map((value, i) => value + share * (ink[i] - value));
        image.data.set([...color, 255], 4 * ((rows - 1 - row) * columns + column));
      }
    }
    context.putImageData(image, 0, 0);
  }

  toScreen([x, y]) {
    return [this.canvas.width / 2 + (x - this.middle[0]) * this.scale, this.canvas.height / 2 - (y - this.middle[1]) * this.scale];
  }

  toWater(event) {
    const box = this.canvas.getBoundingClientRect();
    return [this.middle[0] + (event.clientX - box.left - box.width / 2) / this.scale, this.middle[1] - (event.clientY - box.top - box.height / 2) / this.scale];
  }

  whole() {
    this.middle = [0, 0];
    this.scale = Math.min(this.canvas.clientWidth / 620, this.canvas.clientHeight / 250);
    this.follow = false;
  }

  draw(scene) {
    const { canvas } = this;
    if (canvas.width !== canvas.clientWidth || canvas.height !== canvas.clientHeight) [canvas.width, canvas.height] = [canvas.clientWidth, canvas.clientHeight];
    if (this.follow && scene.boat) this.middle = [scene.boat.x_m, Math.max(-40, Math.min(40, scene.boat.y_m))];
    const context = canvas.getContext("2d");
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.fillStyle = look("--soft");
    context.fillRect(0, 0, canvas.width, canvas.height);
    const [left, top] = this.toScreen([this.raw.west_m, this.raw.south_m + this.raw.cell_m * (this.raw.rows - 1)]);
    context.imageSmoothingEnabled = true;
    context.drawImage(this.picture, left, top, this.raw.columns * this.raw.cell_m * this.scale, this.raw.rows * this.raw.cell_m * this.scale);
    const [ox, oy] = this.toScreen([0, 0]);
    context.setTransform(this.scale, 0, 0, -this.scale, ox, oy);
    this.drawContours(context);
    this.drawTrack(context, scene);
    context.setTransform(1, 0, 0, 1, 0, 0);
    this.drawSigns(context, scene);
  }

  drawContours(context) {
    context.strokeStyle = look("--muted");
    for (const [feet, path] of this.paths) {
      const edge = feet === this.band[0] || feet === this.band[1];
      context.globalAlpha = edge ? 0.9 : feet % 10 === 0 ? 0.45 : 0.22;
      context.lineWidth = (edge ? 2 : 1) / this.scale;
      context.stroke(path);
    }
    context.globalAlpha = 1;
  }

  drawTrack(context, { track, path, reach_m: reach }) {
    context.lineJoin = "round";
    if (reach && track.length > 1) {
      context.fillStyle = look("--accent");
      context.globalAlpha = 0.13;
      context.beginPath();
      for (let i = 1; i < track.length; i += 1) swath(context, track[i - 1], track[i], reach);
      context.fill();
      context.globalAlpha = 1;
    }
    context.strokeStyle = look("--ink");
    line(context, track, 2.5 / this.scale, []);
    line(context, path, 2 / this.scale, [6 / this.scale, 5 / this.scale]);
  }

  drawSigns(context, scene) {
    context.font = "600 16px Atkinson, sans-serif";
    for (const spot of scene.spots) this.ellipse(context, spot, scene.chosen === spot.id);
    if (scene.mark) this.drawMark(context, scene.mark);
    for (const thing of scene.things ?? []) label(context, this.toScreen([thing.x_m, thing.y_m]), thing.said, look("--accent"));
    if (scene.boat) this.drawBoat(context, scene.boat);
  }

  drawMark(context, mark) {
    context.strokeStyle = context.fillStyle = look("--accent");
    context.lineWidth = 3;
    if (mark.arc.length) {
      context.setLineDash([5, 4]);
      context.beginPath();
      mark.arc.forEach((place, i) => context[i ? "lineTo" : "moveTo"](...this.toScreen(place)));
      context.stroke();
      context.setLineDash([]);
    }
    this.ellipse(context, { ...mark, kind: "" }, true);
  }

  ellipse(context, spot, strong) {
    const [x, y] = this.toScreen([spot.x_m, spot.y_m]);
    context.strokeStyle = look("--accent");
    context.lineWidth = strong ? 3 : 2;
    context.beginPath();
    context.ellipse(x, y, Math.max(spot.long_m * this.scale, 4), Math.max(spot.short_m * this.scale, 3), spot.bearing_rad - Math.PI / 2, 0, 2 * Math.PI);
    context.stroke();
    if (spot.kind) label(context, [x + 8, y - 8], spot.number ? `${spot.number} ${spot.kind}` : spot.kind, look("--ink"));
  }

  drawBoat(context, boat) {
    const [x, y] = this.toScreen([boat.x_m, boat.y_m]);
    context.save();
    context.translate(x, y);
    context.rotate(boat.heading_rad);
    context.strokeStyle = look("--ink");
    context.lineWidth = 5;
    context.lineCap = "round";
    context.beginPath();
    context.moveTo(0, 9);
    context.lineTo(0, -9);
    context.stroke();
    context.restore();
    label(context, [x + 12, y - 6], `you, ${boat.speed_mph.toFixed(1)} mph`, look("--ink"));
  }
}

function label(context, [x, y], text, color) {
  const wide = context.measureText(text).width;
  context.globalAlpha = 0.82;
  context.fillStyle = look("--paper");
  context.fillRect(x - 3, y - 14, wide + 6, 19);
  context.globalAlpha = 1;
  context.fillStyle = color;
  context.fillText(text, x, y);
}

function contourPath(lines) {
  const path = new Path2D();
  for (const points of lines) points.forEach(([x, y], i) => path[i ? "lineTo" : "moveTo"](x, y));
  return path;
}

function line(context, places, width, dash) {
  context.lineWidth = width;
  context.setLineDash(dash);
  context.beginPath();
  places.forEach(([x, y], i) => context[i ? "lineTo" : "moveTo"](x, y));
  context.stroke();
  context.setLineDash([]);
}

function swath(context, [ax, ay, turn], [bx, by], reach) {
  const [ex, ey] = [Math.cos(turn) * reach, -Math.sin(turn) * reach];
  context.moveTo(ax - ex, ay - ey);
  context.lineTo(ax + ex, ay + ey);
  context.lineTo(bx + ex, by + ey);
  context.lineTo(bx - ex, by - ey);
}
