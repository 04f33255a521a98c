// The side view's overlay: what the tracker follows, over the picture.

import { toPage } from "./geometry.js";
import { placeLabels } from "./labels.js";
import { boat, depths, fishRing, label, LABEL_FONT, lozenge, name, ringRadius, rings, surface } from "./marks.js";
import { drawTruth } from "./truth.js";

// How far about itself an echo of bait is kept free of labels.
const BAIT_PX = 7;

// `marks` is what is marked: "chosen" (one fish and the jig), "all" or "none".
export function drawSide(ctx, size, state, view, scene, tone, { truth, brief, marks, chosen }) {
  ctx.setTransform(size.ratio, 0, 0, size.ratio, 0, 0);
  ctx.clearRect(0, 0, size.width, size.height);
  surface(ctx, state, view, tone);
  rings(ctx, state, view, tone);
  depths(ctx, state, view, tone);
  boat(ctx, view, tone);
  if (truth) drawTruth(ctx, state, view, scene, tone);
  if (marks === "none") return [];
  const lure = scene.tracks.find((track) => track.kind === "lure");
  if (lure) {
    const [x, y] = toPage(view, lure.ahead_m, lure.other_m);
    thread(ctx, state, view, x, y, tone);
    lozenge(ctx, x, y, tone);
  }
  const fish = scene.tracks.filter((track) => track.kind === "fish").sort((a, b) => b.odds - a.odds);
  const seen = fish.map((track) => {
    const [x, y] = toPage(view, track.ahead_m, track.other_m);
    return { track, x, y, radius: ringRadius(track, view.scale), text: "" };
  });
  const one = chosenOf(fish, lure, chosen);
  const ringed = seen.filter(({ track }) => marks === "all" || track === one);
  for (const mark of ringed) {
    fishRing(ctx, mark.x, mark.y, mark.track, tone, mark.radius, view);
    mark.text = words(mark.track, brief);
  }
  ctx.font = LABEL_FONT;
  const jig = lure ? [{ x: toPage(view, lure.ahead_m, lure.other_m)[0], y: toPage(view, lure.ahead_m, lure.other_m)[1], radius: 9 }] : [];
  const others = [...seen.filter((mark) => !ringed.includes(mark)), ...jig, ...baitPlaces(scene, view)];
  const boxes = placeLabels([...ringed, ...baitMarks(scene, view, marks)], view, (text) => ctx.measureText(text).width, others);
  for (const box of boxes) label(ctx, box, tone);
  return boxes;
}

// The fish that was pointed at, while it is followed; else the one nearest to the jig; without a jig, to the boat.
function chosenOf(fish, lure, chosen) {
  const far = (track) => (lure ? Math.hypot(track.ahead_m - lure.ahead_m, track.other_m - lure.other_m) : track.range_m);
  return fish.find((track) => track.id === chosen) ?? [...fish].sort((a, b) => far(a) - far(b))[0];
}

function words(track, brief) {
  const size = track.odds < 0.6 ? "?" : track.length_in < 5 ? "" : `, ${Math.round(track.length_in)} in`;
  return brief ? name(track.id) : `${name(track.id)} fish${size}`;
}

// A label would hide a cloud of bait as well as it would a fish.
function baitPlaces(scene, view) {
  return scene.bait.map((one) => {
    const [x, y] = toPage(view, one.ahead_m, one.other_m);
    return { x, y, radius: BAIT_PX };
  });
}

// One word for the cloud, where the surest of its echoes is.
function baitMarks(scene, view, marks) {
  if (marks !== "all") return [];
  const sure = scene.bait.filter((one) => one.odds > 0.8).sort((a, b) => b.odds - a.odds).slice(0, 1);
  return sure.map((cloud) => {
    const [x, y] = toPage(view, cloud.ahead_m, cloud.other_m);
    return { x, y, radius: 14, text: "bait" };
  });
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
