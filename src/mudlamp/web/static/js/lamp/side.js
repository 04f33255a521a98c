// The side view's overlay: what the tracker follows, over the picture.

import { toPage } from "./geometry.js";
import { placeLabels } from "./labels.js";
import { boat, depths, fishRing, isHidden, label, LABEL_FONT, lozenge, name, ringRadius, rings, surface } from "./marks.js";
import { drawSpots } from "./spots.js";
import { drawTruth } from "./truth.js";

const LEAST_GROUP_PX = 12;

// `marks` is what is marked: "chosen" (one fish and the jig), "all" or "none".
export function drawSide(ctx, size, state, view, scene, tone, { truth, brief, marks, chosen, casts, guessFirst }) {
  ctx.setTransform(size.ratio, 0, 0, size.ratio, 0, 0);
  ctx.clearRect(0, 0, size.width, size.height);
  surface(ctx, state, view, tone);
  rings(ctx, state, view, tone);
  depths(ctx, state, view, tone);
  boat(ctx, view, tone);
  if (truth) drawTruth(ctx, state, view, scene, tone);
  if (marks === "none") return { boxes: [], one: null };
  drawSpots(ctx, view, scene.spots, tone);
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
  // Of a school only the chosen fish carries a ring of its own.
  const schooled = new Set(scene.schools.flatMap((school) => school.members));
  const ringed = seen.filter(({ track }) => track === one || (marks === "all" && !schooled.has(track.id)));
  for (const mark of ringed) {
    fishRing(ctx, mark.x, mark.y, mark.track, tone, mark.radius, view);
    mark.text = words(mark.track, brief, guessFirst);
  }
  throwTo(ctx, view, casts.find((each) => each.id === one?.id), tone);
  ctx.font = LABEL_FONT;
  const jig = lure ? [{ x: toPage(view, lure.ahead_m, lure.other_m)[0], y: toPage(view, lure.ahead_m, lure.other_m)[1], radius: 9 }] : [];
  const groups = groupMarks(ctx, scene, view, tone, marks);
  const others = [...seen.filter((mark) => !ringed.includes(mark)), ...jig, ...groups.clouds];
  const boxes = placeLabels([...ringed, ...groups.named], view, (text) => ctx.measureText(text).width, others);
  for (const box of boxes) label(ctx, box, tone);
  return { boxes, one };
}

// The fish that was pointed at, while it is followed; else the one nearest to the jig; without a jig, to the boat.
function chosenOf(fish, lure, chosen) {
  const far = (track) => (lure ? Math.hypot(track.ahead_m - lure.ahead_m, track.other_m - lure.other_m) : track.range_m);
  return fish.find((track) => track.id === chosen) ?? [...fish].sort((a, b) => far(a) - far(b))[0];
}

function words(track, brief, guessFirst) {
  const size = track.odds < 0.6 ? "?" : track.size_in === null || isHidden(track, guessFirst) ? "" : `, ${track.size_in} in`;
  return brief ? name(track.id) : `${name(track.id)} ${track.called}${size}`;
}

// Where to throw for the chosen fish: how far off a throw may be, on the water, and the lure's way down.
function throwTo(ctx, view, cast, tone) {
  if (!cast || view.flat) return;
  const [x, y] = toPage(view, cast.splash_m, 0);
  ctx.strokeStyle = tone.ink;
  ctx.lineWidth = 4;
  ctx.beginPath();
  ctx.moveTo(x - cast.ring_m * view.scale, y);
  ctx.lineTo(x + cast.ring_m * view.scale, y);
  ctx.stroke();
  ctx.lineWidth = 1.5;
  ctx.setLineDash([7, 5]);
  ctx.beginPath();
  for (const [ahead, deep] of cast.path) ctx.lineTo(...toPage(view, ahead, deep));
  ctx.stroke();
  ctx.setLineDash([]);
}

// Schools and clouds: a broken ring each, and its words; a label would hide a cloud of bait as well as it would a fish.
function groupMarks(ctx, scene, view, tone, marks) {
  const place = (one) => {
    const [x, y] = toPage(view, one.ahead_m, one.other_m);
    return { x, y, radius: Math.max(one.radius_m * view.scale, LEAST_GROUP_PX), text: one.words, did: one.did };
  };
  const clouds = scene.bait.map(place);
  const schools = scene.schools.map(place);
  // Bait that has just done something is worth a ring in any case.
  const drawn = [...schools, ...clouds.filter((cloud) => marks === "all" || cloud.did)];
  ctx.strokeStyle = tone.accent;
  ctx.lineWidth = 1.5;
  ctx.setLineDash([2, 5]);
  for (const { x, y, radius } of drawn) {
    ctx.beginPath();
    ctx.arc(x, y, radius, 0, 2 * Math.PI);
    ctx.stroke();
  }
  ctx.setLineDash([]);
  return { clouds, named: drawn };
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
