// The 3-D view: the bottom as a surface of points behind the boat, what stands over it as balls. Drag to turn.

import { ask, points } from "./api.js";

const find = (id) => document.getElementById(id);
const REACH_FT = 60;
const FIELDS = 5;
const KEPT = 5200;
const look = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

export function mountSolid(page) {
  const canvas = find("solid");
  const state = { on: false, have: 0, rows: [], turn: 0.6, tilt: 0.5 };
  let held = null;
  find("show-solid").addEventListener("click", async () => {
    if (!page.state) return;
    state.on = !state.on;
    await ask("/points", { method: "POST", body: { reach_ft: state.on ? REACH_FT : 0 } });
    find("show-solid").setAttribute("aria-pressed", String(state.on));
    find("solid-card").hidden = !state.on;
    draw(canvas, state, page);
  });
  canvas.addEventListener("pointerdown", (event) => {
    held = [event.clientX, event.clientY, state.turn, state.tilt];
    canvas.setPointerCapture(event.pointerId);
  });
  canvas.addEventListener("pointermove", (event) => {
    if (!held) return;
    state.turn = held[2] + (event.clientX - held[0]) / 160;
    state.tilt = Math.min(1.4, Math.max(0.1, held[3] + (event.clientY - held[1]) / 160));
    draw(canvas, state, page);
  });
  canvas.addEventListener("pointerup", () => (held = null));
  canvas.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: [-0.15, 0], ArrowRight: [0.15, 0], ArrowUp: [0, -0.1], ArrowDown: [0, 0.1] }[event.key];
    if (!step) return;
    event.preventDefault();
    state.turn += step[0];
    state.tilt = Math.min(1.4, Math.max(0.1, state.tilt + step[1]));
    draw(canvas, state, page);
  });
  setInterval(async () => {
    if (!state.on || !page.state) return;
    const fresh = await points(state.have);
    if (!fresh) return;
    state.have += fresh.length / FIELDS;
    for (let i = 0; i < fresh.length; i += FIELDS) state.rows.push(fresh.subarray(i, i + FIELDS));
    state.rows = state.rows.slice(-KEPT);
    draw(canvas, state, page);
  }, 600);
  // A new search knows nothing of the old one's points, nor that they were wanted.
  page.solidAgain = async () => {
    [state.have, state.rows] = [0, []];
    if (state.on) await ask("/points", { method: "POST", body: { reach_ft: REACH_FT } });
  };
}

function draw(canvas, state, page) {
  const [w, h] = [(canvas.width = canvas.clientWidth), (canvas.height = canvas.clientHeight)];
  const context = canvas.getContext("2d");
  context.fillStyle = look("--paper");
  context.fillRect(0, 0, w, h);
  if (!page.state || !state.rows.length) return;
  const { x_m: bx, y_m: by, heading_rad: heading } = page.state;
  const [sin, cos] = [Math.sin(state.turn), Math.cos(state.turn)];
  const scale = h / 42;
  const placed = state.rows.map(([x, y, z, level, kind]) => {
    const [dx, dy] = [x - bx, y - by];
    const ahead = dx * Math.sin(heading) + dy * Math.cos(heading);
    const aside = dx * Math.cos(heading) - dy * Math.sin(heading);
    const far = ahead * cos - aside * sin;
    return { right: aside * cos + ahead * sin, far, z, level, kind };
  });
  placed.sort((a, b) => b.far - a.far);
  const [paper, ink] = [look("--muted"), look("--accent")];
  for (const { right, far, z, level, kind } of placed) {
    const px = w / 2 + right * scale;
    const py = h * 0.3 + (z * 2 * Math.cos(state.tilt) - far * Math.sin(state.tilt)) * scale;
    if (kind) {
      context.fillStyle = ink;
      context.beginPath();
      context.arc(px, py, Math.min(9, Math.max(2.5, 3 + (level + 50) / 4)), 0, 2 * Math.PI);
      context.fill();
    } else {
      context.globalAlpha = Math.min(0.85, 0.15 + z / 14);
      context.fillStyle = paper;
      context.fillRect(px - 2, py - 2, 4, 4);
      context.globalAlpha = 1;
    }
  }
  context.fillStyle = look("--ink");
  context.fillRect(w / 2 - 2, h * 0.3 - 7, 4, 14);
  context.font = "600 16px Atkinson, sans-serif";
  context.fillText("you", w / 2 + 8, h * 0.3 - 2);
}
