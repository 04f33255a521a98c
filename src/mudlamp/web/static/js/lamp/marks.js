// Marks over the side view: rings with their figures, depth lines, boat, tracks, lure, line. Never color alone.

import { FOOT, toPage } from "./geometry.js";
import { placeOf } from "./plane.js";

const RING_STEPS = 48;

function ringStep(reachFt) {
  return reachFt > 60 ? 20 : reachFt > 24 ? 10 : 5;
}

export function rings(ctx, state, view, tone) {
  const reachFt = state.window.reach_m / FOOT;
  const step = ringStep(reachFt);
  ctx.save();
  ctx.strokeStyle = tone.muted;
  ctx.fillStyle = tone.ink;
  ctx.globalAlpha = 0.75;
  ctx.lineWidth = 1;
  ctx.lineCap = "butt";
  ctx.setLineDash([1.5, 4]);
  ctx.font = "600 16px Atkinson, sans-serif";
  for (let ft = step; ft <= reachFt + 0.1; ft += step) {
    // Seen from above the figure stands under the ring's end, beside the fan: in it, it would hide what is straight ahead.
    const level = view.flat ? state.fan_rad / 2 : state.tilt_rad - Math.PI / 2;
    const [right, end] = toPage(view, ...placeOf(state, ft * FOOT, level));
    ctx.save();
    if (!view.flat) {
      ctx.beginPath();
      ctx.rect(view.boatX - state.window.look_back_m * view.scale, view.top, (state.window.look_back_m + state.window.reach_m) * view.scale, view.tall * view.scaleY);
      ctx.clip();
    }
    ctx.beginPath();
    for (let i = 0; i <= RING_STEPS; i += 1) ctx.lineTo(...toPage(view, ...placeOf(state, ft * FOOT, state.fan_rad * (i / RING_STEPS - 0.5))));
    ctx.stroke();
    ctx.restore();
    ctx.globalAlpha = 1;
    ctx.textAlign = right > view.width - 22 ? "right" : "center";
    if (right < view.width - 4) ctx.fillText(`${ft} ft`, right, view.flat ? end + 18 : 15);
    ctx.globalAlpha = 0.75;
  }
  ctx.restore();
}

export function depths(ctx, state, view, tone) {
  if (view.flat) return;
  const step = state.window.down_to_m / FOOT > 30 ? 10 : 5;
  ctx.fillStyle = tone.muted;
  ctx.font = "16px Atkinson, sans-serif";
  ctx.textAlign = "right";
  for (let ft = step; ft <= state.window.down_to_m / FOOT; ft += step) {
    const y = view.top + ft * FOOT * view.scaleY;
    if (y < view.height - 6) ctx.fillText(`${ft}`, view.boatX - state.window.look_back_m * view.scale - 5, y + 4);
  }
}

// The water's surface, where the picture begins.
export function surface(ctx, state, view, tone) {
  if (view.flat) return;
  const left = view.boatX - state.window.look_back_m * view.scale;
  const right = view.boatX + state.window.reach_m * view.scale;
  ctx.strokeStyle = tone.muted;
  ctx.lineWidth = 1;
  ctx.setLineDash([]);
  ctx.beginPath();
  for (let x = left; x <= right; x += 3) ctx.lineTo(x, view.top - 0.5 + 0.9 * Math.sin(x / 5));
  ctx.stroke();
}

export function boat(ctx, view, tone) {
  const { boatX: x, boatY: y } = view;
  ctx.strokeStyle = tone.ink;
  ctx.lineWidth = 4;
  ctx.lineCap = "round";
  ctx.beginPath();
  ctx.moveTo(...(view.flat ? [x, y + 12] : [x - 12, y]));
  ctx.lineTo(...(view.flat ? [x, y - 4] : [x + 4, y]));
  ctx.stroke();
  ctx.lineWidth = 1.5;
}

export const ringRadius = (track, scale) => Math.max(9, Math.min(20, track.length_in * 0.0254 * scale * 0.7));

export function fishRing(ctx, x, y, track, tone, radius, view) {
  ctx.strokeStyle = tone.accent;
  ctx.lineWidth = 2.2;
  ctx.setLineDash(track.odds < 0.6 || track.coasting ? [4, 4] : []);
  ctx.beginPath();
  ctx.arc(x, y, radius, 0, 2 * Math.PI);
  ctx.stroke();
  const [ahead, other] = track.toward;
  const [vx, vy] = view.flat ? [other, -ahead] : [ahead, other];
  const speed = Math.hypot(vx, vy);
  if (speed > 0.06) {
    ctx.setLineDash([]);
    ctx.beginPath();
    ctx.moveTo(x + (vx / speed) * radius, y + (vy / speed) * radius);
    ctx.lineTo(x + (vx / speed) * (radius + 8), y + (vy / speed) * (radius + 8));
    ctx.stroke();
  }
  ctx.setLineDash([]);
}

export function lozenge(ctx, x, y, tone) {
  ctx.strokeStyle = tone.accent;
  ctx.fillStyle = tone.paper;
  ctx.lineWidth = 2.2;
  ctx.beginPath();
  ctx.moveTo(x, y - 9);
  ctx.lineTo(x + 6, y);
  ctx.lineTo(x, y + 9);
  ctx.lineTo(x - 6, y);
  ctx.closePath();
  ctx.fill();
  ctx.stroke();
}

export const LABEL_FONT = "700 16px Atkinson, sans-serif";

// A label where `placeLabels` put it, with a leader line where it stands off.
export function label(ctx, box, tone) {
  ctx.font = LABEL_FONT;
  const middle = (box.top + box.bottom) / 2;
  if (box.off > 0) {
    ctx.strokeStyle = tone.accent;
    ctx.lineWidth = 1.5;
    const end = [Math.min(Math.max(box.x, box.left), box.right), Math.min(Math.max(box.y, box.top), box.bottom)];
    const away = Math.hypot(end[0] - box.x, end[1] - box.y);
    ctx.beginPath();
    ctx.moveTo(box.x + ((end[0] - box.x) / away) * box.radius, box.y + ((end[1] - box.y) / away) * box.radius);
    ctx.lineTo(...end);
    ctx.stroke();
  }
  ctx.lineWidth = 4;
  ctx.lineJoin = "round";
  ctx.strokeStyle = tone.paper;
  ctx.textAlign = "left";
  ctx.textBaseline = "middle";
  ctx.strokeText(box.text, box.left, middle);
  ctx.fillStyle = tone.accent;
  ctx.fillText(box.text, box.left, middle);
  ctx.textBaseline = "alphabetic";
}

// Letters for tracks: a track keeps its letter while it is spoken of; a free letter is one that was not used for a while.
const FREE_AFTER_MS = 32000;
const letters = new Map(); // track number -> [letter, when last used]
let nextLetter = 0;

// Whether a fish's length is kept from the angler until they have guessed it.
export const isHidden = (track, guessFirst) => guessFirst && track.guess_in === null;

export function name(number) {
  const now = performance.now();
  const known = letters.get(number);
  if (known) {
    known[1] = now;
    return known[0];
  }
  for (const [key, [, used]] of letters) if (now - used > FREE_AFTER_MS) letters.delete(key);
  const taken = new Set([...letters.values()].map((entry) => entry[0]));
  // A to Z in turn; when all are spoken of, A2 to Z2, and so on.
  let letter = "";
  for (let i = 0; letter === "" || taken.has(letter); i += 1) {
    const round = Math.floor(i / 26);
    letter = String.fromCharCode(65 + ((nextLetter + i) % 26)) + (round === 0 ? "" : String(round + 1));
  }
  nextLetter = letter.charCodeAt(0) - 64;
  letters.set(number, [letter, now]);
  return letter;
}
