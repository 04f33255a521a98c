// Where things stand on the page: one horizontal scale for the side view and the plan under it.

export const FOOT = 0.3048;
const TOP = 22; // room for captions above the water line
const LEFT = 34;
const RIGHT = 14;

// `screen` (their unit's pixels across and down) stretches the picture as their screen does; without it the shape is true.
export function layout(state, width, height, screen) {
  const flat = state.fan === "flat";
  const ahead = state.window.reach_m + state.window.look_back_m;
  const tall = flat ? 2 * state.window.reach_m * Math.sin(state.fan_rad / 2) : state.window.down_to_m;
  const room = [width - LEFT - RIGHT, height - TOP - 8];
  let scale = Math.min(room[0] / ahead, room[1] / tall);
  let scaleY = scale;
  if (screen && !flat) {
    const fit = Math.min(room[0] / screen.width_px, room[1] / screen.height_px);
    scale = (screen.width_px * fit) / ahead;
    scaleY = (screen.height_px * fit) / tall;
  }
  // A flat fan is taller than it is wide: it stands in the middle.
  const spare = flat ? Math.max(0, (room[0] - ahead * scale) / 2) : 0;
  const boatX = LEFT + spare + state.window.look_back_m * scale;
  return { flat, scale, scaleY, boatX, top: TOP, middle: TOP + (tall * scaleY) / 2, width, height, tall, stretched: scale !== scaleY };
}

export function toPage(view, ahead, other) {
  return [view.boatX + ahead * view.scale, (view.flat ? view.middle : view.top) + other * view.scaleY];
}

export function fromPage(view, x, y) {
  return [(x - view.boatX) / view.scale, (y - (view.flat ? view.middle : view.top)) / view.scaleY];
}

// A canvas as sharp as the screen; returns its size in page pixels.
export function fit(canvas) {
  const ratio = Math.min(window.devicePixelRatio || 1, 2);
  const { width, height } = canvas.getBoundingClientRect();
  const w = Math.max(1, Math.round(width * ratio));
  const h = Math.max(1, Math.round(height * ratio));
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
  }
  return { width, height, ratio };
}

export function colors() {
  const style = getComputedStyle(document.documentElement);
  const of = (name) => style.getPropertyValue(name).trim();
  return { ink: of("--ink"), muted: of("--muted"), line: of("--line"), accent: of("--accent"), good: of("--good"), bad: of("--bad"), paper: of("--paper") };
}
