// Where things stand on the page: one horizontal scale for the side view and the plan under it.

export const FOOT = 0.3048;
const TOP = 22; // room for captions above the water line
const LEFT = 34;
const RIGHT = 14;

// `screen` (their unit's pixels across and down) stretches the picture as their screen does; without it the shape is true.
export function layout(state, width, height, screen) {
  const flat = state.fan === "flat";
  const { reach_m: reach, look_back_m: back, down_to_m: deep } = state.window;
  const room = [width - LEFT - RIGHT, height - TOP - 8];
  // A flat fan is seen from above, ahead is up: it is twice as wide as it is long.
  const [wide, tall] = flat ? [2 * reach * Math.min(1, Math.sin(Math.min(state.fan_rad, Math.PI) / 2)), reach + back] : [reach + back, deep];
  let scale = Math.min(room[0] / wide, room[1] / tall);
  let scaleY = scale;
  if (screen && !flat) {
    const fit = Math.min(room[0] / screen.width_px, room[1] / screen.height_px);
    scale = (screen.width_px * fit) / wide;
    scaleY = (screen.height_px * fit) / tall;
  }
  const boatX = flat ? LEFT + room[0] / 2 : LEFT + back * scale;
  // Where the page is taller than wide, a flat fan stands in the middle of its room.
  const boatY = flat ? TOP + reach * scale + (room[1] - tall * scale) / 2 : TOP;
  return { flat, scale, scaleY, boatX, boatY, top: TOP, width, height, tall, stretched: scale !== scaleY };
}

export function toPage(view, ahead, other) {
  if (view.flat) return [view.boatX + other * view.scale, view.boatY - ahead * view.scale];
  return [view.boatX + ahead * view.scale, view.boatY + other * view.scaleY];
}

export function fromPage(view, x, y) {
  if (view.flat) return [(view.boatY - y) / view.scale, (x - view.boatX) / view.scale];
  return [(x - view.boatX) / view.scale, (y - view.boatY) / view.scaleY];
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
