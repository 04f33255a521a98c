// The picture: polar brightness mapped to the page between its cells, colored by the ink's table last.

import { fromPage, layout } from "./geometry.js";
import { polarOf } from "./plane.js";

// Weights between two cells, in sixteenths.
const WHOLE = 16;

// What of the page shows the picture: `pixels` (their numbers), `cells` (the nearer of the four cells about each, by beam and range) and
// how far each is on toward the next beam and the next range.
export function indexMap(state, view, ratio, width, height, beams, bins) {
  const found = { pixels: [], cells: [], toBeam: [], toRange: [] };
  const perBeam = beams / state.fan_rad;
  const perMeter = bins / state.farthest_m;
  const { reach_m: reach, look_back_m: back, down_to_m: deep } = state.window;
  const farthest = Math.max(reach, deep - state.depth_m);
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const [ahead, other] = fromPage(view, (x + 0.5) / ratio, (y + 0.5) / ratio);
      if (ahead < -back || ahead > reach || (!view.flat && (other < 0 || other > deep))) continue;
      const [range, angle] = polarOf(state, ahead, other);
      const beam = (angle + state.fan_rad / 2) * perBeam;
      const bin = range * perMeter;
      if (!(beam >= 0 && beam < beams && bin < bins && range <= farthest)) continue;
      // Cells have their middles halfway; at the rim the last two serve.
      const b = Math.min(Math.max(beam - 0.5, 0), beams - 1.001);
      const k = Math.min(Math.max(bin - 0.5, 0), bins - 1.001);
      found.pixels.push(y * width + x);
      found.cells.push(Math.floor(b) * bins + Math.floor(k));
      found.toBeam.push(Math.round((b % 1) * WHOLE));
      found.toRange.push(Math.round((k % 1) * WHOLE));
    }
  }
  return {
    pixels: Int32Array.from(found.pixels),
    cells: Int32Array.from(found.cells),
    toBeam: Uint8Array.from(found.toBeam),
    toRange: Uint8Array.from(found.toRange),
  };
}

export function palette(ink) {
  const colors = new Uint32Array(256);
  for (let i = 0; i < 256; i += 1) colors[i] = (255 << 24) | (ink[i][2] << 16) | (ink[i][1] << 8) | ink[i][0];
  return colors;
}

export class Picture {
  constructor(canvas) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d", { alpha: true });
    this.key = "";
  }

  prepare(state, ink, size, beams, bins, screen) {
    const { fan, tilt_rad: tilt, window, farthest_m: far } = state;
    const key = JSON.stringify([fan, tilt, window, far, screen, this.canvas.width, this.canvas.height, beams, bins]);
    if (key !== this.key) {
      this.key = key;
      this.view = layout(state, size.width, size.height, screen);
      this.map = indexMap(state, this.view, size.ratio, this.canvas.width, this.canvas.height, beams, bins);
      this.image = this.context.createImageData(this.canvas.width, this.canvas.height);
      this.pixels = new Uint32Array(this.image.data.buffer);
    }
    if (this.inkOf !== ink) {
      this.inkOf = ink;
      this.palette = palette(ink);
    }
  }

  // `sampled` draws each cell as one block, as it was sampled.
  draw(picture, bins, sampled) {
    if (sampled) this.drawCells(picture, bins);
    else this.drawBetween(picture, bins);
    this.context.putImageData(this.image, 0, 0);
  }

  drawCells(picture, bins) {
    const { pixels, palette: colors } = this;
    const { pixels: to, cells, toBeam, toRange } = this.map;
    for (let i = 0; i < to.length; i += 1) {
      pixels[to[i]] = colors[picture[cells[i] + (toBeam[i] > WHOLE / 2 ? bins : 0) + (toRange[i] > WHOLE / 2 ? 1 : 0)]];
    }
  }

  // Levels between the four cells about a place first, the ink after.
  drawBetween(picture, bins) {
    const { pixels, palette: colors } = this;
    const { pixels: to, cells, toBeam, toRange } = this.map;
    const dark = colors[0];
    for (let i = 0; i < to.length; i += 1) {
      const at = cells[i];
      const a = picture[at];
      const b = picture[at + 1];
      const c = picture[at + bins];
      const d = picture[at + bins + 1];
      if ((a | b | c | d) === 0) {
        pixels[to[i]] = dark;
        continue;
      }
      const near = a * WHOLE + (b - a) * toRange[i];
      const next = c * WHOLE + (d - c) * toRange[i];
      pixels[to[i]] = colors[(near * WHOLE + (next - near) * toBeam[i] + 128) >> 8];
    }
  }
}
