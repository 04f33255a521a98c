// The truth of simulated water over the picture: outlines of all that is there; what the set-up hides is struck through.

import { toPage } from "./geometry.js";
import { placeOf } from "./plane.js";

function outline(ctx, x, y, row, state, view, heading) {
  if (row.kind === "bait") {
    ctx.ellipse(x, y, row.radius_m * view.scale, 0.5 * row.radius_m * view.scaleY, 0, 0, 2 * Math.PI);
    return;
  }
  if (row.kind === "fish") {
    // Seen from the side a fish is as long as it lies along the fan; from above it is turned as it heads.
    const turn = row.heading_rad - heading;
    const half = 0.5 * row.length_m;
    if (view.flat) ctx.ellipse(x, y, Math.max(half * view.scale, 5), Math.max(0.28 * half * view.scale, 3), turn - Math.PI / 2, 0, 2 * Math.PI);
    else ctx.ellipse(x, y, Math.max(half * Math.abs(Math.cos(turn)) * view.scale, 5), Math.max(0.32 * half * view.scaleY, 4), 0, 0, 2 * Math.PI);
    return;
  }
  ctx.rect(x - 5, y - 5, 10, 10);
}

function strike(ctx, x, y) {
  ctx.setLineDash([]);
  ctx.beginPath();
  ctx.moveTo(x - 13, y + 9);
  ctx.lineTo(x + 13, y - 9);
  ctx.moveTo(x - 13, y - 9);
  ctx.lineTo(x + 13, y + 9);
  ctx.stroke();
}

export function drawTruth(ctx, state, view, scene, tone) {
  ctx.save();
  ctx.lineWidth = 1.6;
  cover(ctx, state, view, scene, tone);
  for (const row of scene.truth) {
    const [x, y] = toPage(view, ...placeOf(state, row.range_m, row.angle_rad));
    if (x < 0 || x > view.width || y < view.top - 4 || y > view.height) continue;
    ctx.strokeStyle = row.erased ? tone.bad : tone.good;
    ctx.setLineDash(row.seen ? [] : [2, 3]);
    ctx.beginPath();
    outline(ctx, x, y, row, state, view, scene.heading_rad);
    ctx.stroke();
    if (row.erased) strike(ctx, x, y);
  }
  ctx.restore();
}

function cover(ctx, state, view, scene, tone) {
  if (view.flat) return;
  ctx.strokeStyle = tone.muted;
  ctx.setLineDash([5, 4]);
  for (const piece of scene.cover ?? []) {
    const [x, y] = toPage(view, piece.ahead_m, piece.top_m);
    const [, foot] = toPage(view, piece.ahead_m, piece.foot_m);
    ctx.strokeRect(x - piece.half_m * view.scale, y, 2 * piece.half_m * view.scale, foot - y);
  }
}
