// The side view's overlay: what the tracker follows, over the picture.

import { boat, depths, fishRing, label, lozenge, name, rings, surface } from "./marks.js";
import { toPage } from "./geometry.js";
import { drawTruth } from "./truth.js";

const MOST_LABELS = 7;

export function drawSide(ctx, size, state, view, scene, tone, { truth, brief }) {
  ctx.setTransform(size.ratio, 0, 0, size.ratio, 0, 0);
  ctx.clearRect(0, 0, size.width, size.height);
  surface(ctx, state, view, tone);
  rings(ctx, state, view, tone);
  depths(ctx, state, view, tone);
  boat(ctx, view, tone);
  if (truth) drawTruth(ctx, state, view, scene, tone);
  const placed = [];
  const fish = scene.tracks.filter((track) => track.kind === "fish").sort((a, b) => b.odds - a.odds);
  for (const track of fish) {
    const [x, y] = toPage(view, track.ahead_m, track.other_m);
    const radius = fishRing(ctx, x, y, track, tone, view.scale);
    const free = placed.every(([px, py]) => Math.abs(px - x) > 92 || Math.abs(py - y) > 15);
    if (free && placed.length < MOST_LABELS) {
      placed.push([x, y]);
      const size = track.odds < 0.6 ? "?" : track.length_in < 5 ? "" : `, ${Math.round(track.length_in)} in`;
      label(ctx, brief ? name(track.id) : `${name(track.id)} fish${size}`, x + radius - 8, y - radius + 2, tone, view);
    }
  }
  const lure = scene.tracks.find((track) => track.kind === "lure");
  if (lure) {
    const [x, y] = toPage(view, lure.ahead_m, lure.other_m);
    thread(ctx, state, view, x, y, tone);
    lozenge(ctx, x, y, tone);
  }
  // One word for the cloud, where the surest of its echoes is.
  for (const cloud of scene.bait.filter((one) => one.odds > 0.8).sort((a, b) => b.odds - a.odds).slice(0, 1)) {
    const [x, y] = toPage(view, cloud.ahead_m, cloud.other_m);
    label(ctx, "bait", x, y - 12, tone, view);
  }
}

// The line: from the rod tip over the water, out of the picture, to the lure.
function thread(ctx, state, view, x, y, tone) {
  if (view.flat) return;
  ctx.strokeStyle = tone.accent;
  ctx.lineWidth = 1;
  ctx.globalAlpha = 0.6;
  ctx.beginPath();
  ctx.moveTo(...toPage(view, state.rod.ahead_m, -state.rod.up_m));
  ctx.lineTo(x, y - 9);
  ctx.stroke();
  ctx.globalAlpha = 1;
}
