// The picture: polar brightness mapped to the page by an index map, colored by the ink's table.

import { layout } from "./geometry.js";
import { polarOf } from "./plane.js";

const OUTSIDE = -1;

export function indexMap(state, view, ratio, width, height, beams, bins) {
  const map = new Int32Array(width * height).fill(OUTSIDE);
  const perBeam = beams / state.fan_rad;
  const perMeter = bins / state.farthest_m;
  const { reach_m: reach, look_back_m: back, down_to_m: deep } = state.window;
  const scale = view.scale * ratio;
  const scaleY = view.scaleY * ratio;
  const x0 = view.boatX * ratio;
  const y0 = (view.flat ? view.middle : view.top) * ratio;
  for (let y = 0; y < height; y += 1) {
    const other = (y + 0.5 - y0) / scaleY;
    if (!view.flat && (other < 0 || other > deep)) continue;
    for (let x = 0; x < width; x += 1) {
      const ahead = (x + 0.5 - x0) / scale;
      if (ahead < -back || ahead > reach) continue;
      const [range, angle] = polarOf(state, ahead, other);
      const beam = Math.floor((angle + state.fan_rad / 2) * perBeam);
      const bin = Math.floor(range * perMeter);
      if (beam >= 0 && beam < beams && bin < bins && range <= Math.max(reach, state.farthest_m)) map[y * width + x] = beam * bins + bin;
    }
  }
  return map;
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

  draw(picture) {
    const { map, pixels, palette: colors } = this;
    for (let i = 0; i < map.length; i += 1) {
      const at = map[i];
      pixels[i] = at < 0 ? 0 : colors[picture[at]];
    }
    this.context.putImageData(this.image, 0, 0);
  }
}
