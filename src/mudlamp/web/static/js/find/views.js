// A view: its columns as they came, and its picture, a ping a line, the newest nearest to the boat.

export const KEPT = 2400;
// A picture is true to shape at this idle [m/s]: a line of it is so far along, whatever the boat really did.
const TRUE_M_S = 1.88;
const PING_HZ = 15;
const BASS_M = 20 * 0.0254;

export class View {
  constructor(figure) {
    this.figure = figure;
    this.pixels = figure.querySelector(".find-pixels");
    this.marks = figure.querySelector(".find-marks");
    this.setting = null;
    this.forget();
  }

  forget() {
    this.ring = null;
    this.have = new Int32Array(KEPT).fill(-1);
  }

  open(setting, bins) {
    const same = this.setting && this.setting.view === setting.view && this.setting.reach_m === setting.reach_m && this.setting.carrier_khz === setting.carrier_khz;
    this.setting = setting;
    this.size = setting.beams * bins;
    this.bins = bins;
    if (!same || !this.ring) {
      this.ring = new Uint8Array(KEPT * this.size);
      this.have.fill(-1);
    }
    return !same;
  }

  put({ first, count, data }) {
    if (data.length !== count * this.size) return;
    for (let i = 0; i < count; i += 1) {
      const slot = (first + i) % KEPT;
      this.ring.set(data.subarray(i * this.size, (i + 1) * this.size), slot * this.size);
      this.have[slot] = first + i;
    }
  }

  // The first stretch between two pings that is not here yet.
  missing(first, last) {
    let from = Math.max(first, 0);
    while (from < last && this.have[from % KEPT] === from) from += 1;
    return from < last ? [from, last] : null;
  }

  get isSide() {
    return this.setting?.view === "side";
  }

  // How many screen pixels a ping takes: true to shape at an idle for the side picture, one each for the others.
  line(scroll) {
    if (!this.isSide) return scroll;
    const metersAPixel = (2 * this.setting.reach_m) / this.pixels.width;
    return (TRUE_M_S / PING_HZ / metersAPixel) * scroll;
  }

  get length() {
    return this.isSide ? this.pixels.height : this.pixels.width;
  }

  pings(scroll) {
    return Math.ceil(this.length / this.line(scroll)) + 1;
  }

  fit() {
    for (const canvas of [this.pixels, this.marks]) {
      const { clientWidth: w, clientHeight: h } = canvas;
      if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    }
  }

  draw(head, scroll, ink) {
    this.fit();
    const { width: w, height: h } = this.pixels;
    if (!this.setting || !w || !h) return;
    const context = this.pixels.getContext("2d");
    const image = context.createImageData(w, h);
    const out = new Uint32Array(image.data.buffer);
    const line = this.line(scroll);
    if (this.isSide) this.fillSide(out, w, h, head, line, ink);
    else this.fillDown(out, w, h, head, line, ink);
    context.putImageData(image, 0, 0);
  }

  fillDown(out, w, h, head, line, ink) {
    const rows = Array.from({ length: h }, (_, y) => Math.floor((y / h) * this.bins));
    for (let x = 0; x < w; x += 1) {
      const number = head - Math.floor((w - 1 - x) / line);
      const slot = ((number % KEPT) + KEPT) % KEPT;
      const base = this.have[slot] === number && number >= 0 ? slot * this.size : -1;
      for (let y = 0; y < h; y += 1) out[y * w + x] = base < 0 ? ink[0] : ink[this.ring[base + rows[y]]];
    }
  }

  fillSide(out, w, h, head, line, ink) {
    const half = w / 2;
    const cells = Array.from({ length: w }, (_, x) => (x < half ? Math.min(this.bins - 1, Math.floor(((half - 1 - x) / half) * this.bins)) : this.bins + Math.min(this.bins - 1, Math.floor(((x - half) / half) * this.bins))));
    for (let y = 0; y < h; y += 1) {
      const number = head - Math.floor(y / line);
      const slot = ((number % KEPT) + KEPT) % KEPT;
      const base = this.have[slot] === number && number >= 0 ? slot * this.size : -1;
      for (let x = 0; x < w; x += 1) out[y * w + x] = base < 0 ? ink[0] : ink[this.ring[base + cells[x]]];
    }
  }

  // Where a pointer is: ping, beam and slant range.
  at(event, head, scroll) {
    const box = this.pixels.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * this.pixels.width;
    const y = ((event.clientY - box.top) / box.height) * this.pixels.height;
    const line = this.line(scroll);
    if (!this.isSide) return { number: head - Math.floor((this.pixels.width - 1 - x) / line), beam: 0, slant_m: (y / this.pixels.height) * this.setting.reach_m };
    const half = this.pixels.width / 2;
    return { number: head - Math.floor(y / line), beam: x < half ? 0 : 1, slant_m: (Math.abs(x - half) / half) * this.setting.reach_m };
  }

  // Where a ping and a slant range stand on the canvas.
  place({ number, beam, slant_m }, head, scroll) {
    const line = this.line(scroll);
    const back = (head - number) * line;
    if (!this.isSide) return [this.pixels.width - 1 - back, (slant_m / this.setting.reach_m) * this.pixels.height];
    const half = this.pixels.width / 2;
    return [half + (beam ? 1 : -1) * (slant_m / this.setting.reach_m) * half, back];
  }

  // A mark's ring; a band fore and aft where the view cannot tell how far along it is.
  drawMark(found, head, scroll, color, paper) {
    const context = this.marks.getContext("2d");
    context.clearRect(0, 0, this.marks.width, this.marks.height);
    if (!found || !this.setting) return;
    const [x, y] = this.place(found, head, scroll);
    const smear = Math.max(found.smear_pings * this.line(scroll), 7);
    context.beginPath();
    if (this.isSide) context.ellipse(x, y, 10, Math.max(smear, 10), 0, 0, 2 * Math.PI);
    else context.ellipse(x, y, Math.max(smear, 10), 10, 0, 0, 2 * Math.PI);
    // A light rim under the ring: it must stand out from the darkest ink.
    for (const [style, width] of [[paper, 7], [color, 3]]) {
      [context.strokeStyle, context.lineWidth] = [style, width];
      context.stroke();
    }
    this.drawSize(context, [x, y], found, scroll, color, paper);
  }

  // How large a 20 in fish is here, along the track and across it: what looks the same size in two pictures is not.
  drawSize(context, [x, y], found, scroll, color, paper) {
    const along = BASS_M * found.meter_pings * this.line(scroll);
    const across = (BASS_M * found.meter_cells * (this.isSide ? this.pixels.width / 2 : this.pixels.height)) / this.bins;
    const [wide, high] = this.isSide ? [across, along] : [along, across];
    context.fillStyle = paper;
    context.fillRect(x + 13, y - 10, wide + 54, Math.max(high, 0) + 20);
    context.fillStyle = color;
    context.fillRect(x + 16, y - 1.5, Math.max(wide, 2), 3);
    context.fillRect(x + 16, y - 1.5, 3, Math.max(high, 2));
    context.font = "600 16px Atkinson, sans-serif";
    context.fillText("20 in", x + 20 + wide, y + 6);
  }
}

export function inkTable(raw) {
  return Uint32Array.from({ length: 256 }, (_, i) => (255 << 24) | (raw[3 * i + 2] << 16) | (raw[3 * i + 1] << 8) | raw[3 * i]);
}
