// A stage: one picture of the pings with its marks. The twin picture is two of them.

import { fit } from "./geometry.js";
import { Picture } from "./picture.js";
import { drawSide } from "./side.js";

export class Stage {
  constructor(root) {
    this.root = root;
    this.picture = new Picture(root.querySelector(".pixels"));
    this.marks = root.querySelector(".marks");
    this.frame = null;
    this.chosen = null;
  }

  get view() {
    return this.picture.view;
  }

  // Draws the newest frame, if there is a new one; returns it.
  draw(state, ink, scene, tone, options) {
    const { frame } = this;
    if (!frame) return null;
    this.frame = null;
    const size = fit(this.picture.canvas);
    fit(this.marks);
    this.picture.prepare(state, ink, size, frame.beams, frame.bins, options.screen);
    this.picture.draw(frame.picture, frame.bins, options.sampled);
    const drawn = drawSide(this.marks.getContext("2d"), size, state, this.view, scene, tone, options);
    this.labels = drawn.boxes;
    this.chosen = drawn.one;
    return frame;
  }
}
