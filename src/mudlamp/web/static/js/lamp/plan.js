// The plan under the side view, at the same scale ahead: a fish stands on one plumb line in both.
// A standing fan knows no left or right: a fish is a bar as wide as the fan there, until a sweep told its side; then as wide as the doubt.
// True places come from simulated water and say so.

import { FOOT } from "./geometry.js";
import { lozenge, name } from "./marks.js";
import { placeOf } from "./plane.js";
import { drawSpotsFromAbove } from "./spots.js";

const RIM = 5;

// Pixels a meter across: as ahead, or as many as show the beam's whole width at the Reach.
export function acrossScale(state, view, height) {
  return Math.min(view.scale, (height / 2 - RIM) / (state.window.reach_m * Math.tan(state.thickness_rad / 2)));
}

export function drawPlan(ctx, size, state, view, scene, tone, hover, cast) {
  ctx.setTransform(size.ratio, 0, 0, size.ratio, 0, 0);
  ctx.clearRect(0, 0, size.width, size.height);
  const middle = size.height / 2;
  const half = Math.tan(state.thickness_rad / 2);
  const across = acrossScale(state, view, size.height);
  footprint(ctx, state, view, middle, half, across, tone);
  const letters = [];
  for (const track of scene.tracks) {
    const x = view.boatX + track.ahead_m * view.scale;
    const [low, high] = track.side ?? [-track.range_m * half, track.range_m * half];
    const y = middle + ((low + high) / 2) * across;
    const wide = Math.max(((high - low) / 2) * across, RIM);
    ctx.strokeStyle = tone.accent;
    ctx.lineWidth = 1.5;
    if (track.kind === "fish") {
      ctx.setLineDash(track.odds < 0.6 || track.coasting ? [4, 4] : []);
      ctx.beginPath();
      ctx.ellipse(x, y, 7, wide, 0, 0, 2 * Math.PI);
      ctx.stroke();
      ctx.setLineDash([]);
      letters.push([x, name(track.id), y]);
    } else {
      lozenge(ctx, x, y, tone);
    }
  }
  drawSpotsFromAbove(ctx, view, scene.spots, middle, across, tone);
  if (cast) throwTo(ctx, view, cast, middle, across, tone);
  stagger(ctx, letters, tone);
  truth(ctx, state, view, scene, middle, across, tone);
  caption(ctx, state, half, tone);
  if (hover !== null) {
    ctx.strokeStyle = tone.ink;
    ctx.lineWidth = 1;
    ctx.setLineDash([2, 3]);
    ctx.beginPath();
    ctx.moveTo(hover, 0);
    ctx.lineTo(hover, size.height);
    ctx.stroke();
    ctx.setLineDash([]);
  }
}

// Letters of fish that stand one behind the other go above and below each other.
function stagger(ctx, letters, tone) {
  ctx.fillStyle = tone.accent;
  ctx.strokeStyle = tone.paper;
  ctx.lineWidth = 3;
  ctx.lineJoin = "round";
  ctx.font = "700 16px Atkinson, sans-serif";
  ctx.textAlign = "center";
  const rows = [0, -15, 15, -29, 29].map((by) => [by, -Infinity]);
  for (const [x, letter, y] of letters.sort((a, b) => a[0] - b[0])) {
    const row = rows.find(([, last]) => x - last > 13) ?? rows[0];
    row[1] = x;
    ctx.strokeText(letter, x, y + 4 + row[0]);
    ctx.fillText(letter, x, y + 4 + row[0]);
  }
}

function caption(ctx, state, half, tone) {
  ctx.font = "600 16px Atkinson, sans-serif";
  ctx.textAlign = "left";
  [`From above: ${Math.round((2 * state.window.reach_m * half) / FOOT)} ft across out there`, "+ true place: simulated water only"].forEach((line, i) => {
    ctx.fillStyle = tone.paper;
    ctx.fillRect(7, 3 + 17 * i, ctx.measureText(line).width + 6, 17);
    ctx.fillStyle = tone.muted;
    ctx.fillText(line, 10, 15 + 17 * i);
  });
}

function footprint(ctx, state, view, middle, half, across, tone) {
  const far = state.window.reach_m;
  const x1 = view.boatX + far * view.scale;
  const y = far * half * across;
  ctx.strokeStyle = tone.muted;
  ctx.lineWidth = 1.2;
  ctx.setLineDash([6, 5]);
  ctx.beginPath();
  ctx.moveTo(x1, middle - y);
  ctx.lineTo(view.boatX, middle);
  ctx.lineTo(x1, middle + y);
  ctx.stroke();
  ctx.setLineDash([]);
  ctx.strokeStyle = tone.line;
  ctx.lineWidth = 1;
  ctx.beginPath();
  for (let ft = 2; ft * FOOT < far; ft += 2) {
    const x = view.boatX + ft * FOOT * view.scale;
    const wide = ft * FOOT * half * across;
    ctx.moveTo(x, middle - wide);
    ctx.lineTo(x, middle + wide);
  }
  ctx.stroke();
  ctx.strokeStyle = tone.ink;
  ctx.lineWidth = 5;
  ctx.lineCap = "round";
  ctx.beginPath();
  ctx.moveTo(view.boatX - 16, middle);
  ctx.lineTo(view.boatX + 2, middle);
  ctx.stroke();
}

function truth(ctx, state, view, scene, middle, across, tone) {
  ctx.strokeStyle = tone.ink;
  ctx.lineWidth = 1.3;
  for (const row of scene.truth) {
    if (row.kind !== "fish" && row.kind !== "lure") continue;
    const [ahead] = placeOf(state, row.range_m, row.angle_rad);
    const x = view.boatX + ahead * view.scale;
    const y = middle + row.across_m * across;
    if (y < 4 || y > 2 * middle - 4) continue;
    ctx.beginPath();
    ctx.moveTo(x - 4, y);
    ctx.lineTo(x + 4, y);
    ctx.moveTo(x, y - 4);
    ctx.lineTo(x, y + 4);
    ctx.stroke();
  }
}

// Where to throw: the ring that a throw falls in, and how far to a side the lure is still seen.
function throwTo(ctx, view, cast, middle, across, tone) {
  const x = view.boatX + cast.splash_m * view.scale;
  const wide = cast.tolerance_m * across;
  ctx.strokeStyle = tone.ink;
  ctx.lineWidth = 1.5;
  ctx.setLineDash([7, 5]);
  ctx.beginPath();
  ctx.moveTo(view.boatX, middle);
  ctx.lineTo(x, middle - wide);
  ctx.moveTo(view.boatX, middle);
  ctx.lineTo(x, middle + wide);
  ctx.stroke();
  ctx.setLineDash([]);
  ctx.lineWidth = 3;
  ctx.beginPath();
  ctx.ellipse(x, middle, Math.max(cast.ring_m * view.scale, 4), Math.max(Math.min(cast.ring_m * across, wide), 3), 0, 0, 2 * Math.PI);
  ctx.stroke();
}
