// The loupe: press and hold on a mark, and its surroundings show four times as large, following it.

import { toPage } from "./geometry.js";

const TIMES = 4;
const SIZE = 216;
const NEAR_PX = 26;

export class Loupe {
  constructor(canvas, stage) {
    this.canvas = canvas;
    this.stage = stage;
    this.followed = null;
  }

  // The mark nearest to a page place, if one is near.
  near(x, y, scene) {
    return this.marksOf(scene)
      .map((mark) => [mark, Math.hypot(mark.x - x, mark.y - y)])
      .filter(([, distance]) => distance < NEAR_PX)
      .sort((a, b) => a[1] - b[1])[0]?.[0];
  }

  // Starts on the nearest mark to a page place, if one is near; returns whether it did.
  start(x, y, scene) {
    const near = this.near(x, y, scene);
    if (!near) return false;
    this.followed = near.id;
    this.canvas.hidden = false;
    return true;
  }

  stop() {
    this.followed = null;
    this.canvas.hidden = true;
  }

  marksOf(scene) {
    const { view } = this.stage;
    if (!view) return [];
    return scene.tracks.map((track) => {
      const [x, y] = toPage(view, track.ahead_m, track.other_m);
      return { id: track.id, x, y };
    });
  }

  draw(scene, tone) {
    if (this.followed === null) return;
    const mark = this.marksOf(scene).find((one) => one.id === this.followed) ?? this.last;
    if (!mark) return;
    this.last = mark;
    const ratio = Math.min(window.devicePixelRatio || 1, 2);
    this.canvas.width = SIZE * ratio;
    this.canvas.height = SIZE * ratio;
    const ctx = this.canvas.getContext("2d");
    const source = this.stage.picture.canvas;
    const side = (SIZE / TIMES) * ratio;
    ctx.imageSmoothingEnabled = false;
    ctx.fillStyle = tone.paper;
    ctx.fillRect(0, 0, this.canvas.width, this.canvas.height);
    ctx.drawImage(source, mark.x * ratio - side / 2, mark.y * ratio - side / 2, side, side, 0, 0, SIZE * ratio, SIZE * ratio);
    ctx.strokeStyle = tone.accent;
    ctx.lineWidth = 2 * ratio;
    ctx.strokeRect(ratio, ratio, (SIZE - 2) * ratio, (SIZE - 2) * ratio);
    // Beside the mark, on the side where there is room.
    const left = mark.x + SIZE + 40 < this.stage.view.width ? mark.x + 36 : mark.x - SIZE - 36;
    this.canvas.style.left = `${Math.max(4, left)}px`;
    this.canvas.style.top = `${Math.min(Math.max(4, mark.y - SIZE / 2), Math.max(4, this.stage.view.height - SIZE - 6))}px`;
  }
}
