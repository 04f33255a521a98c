// The all-round scan: one turn of a narrow beam, the bow up, drawn in its true shape.

import { scan } from "./api.js";

const find = (id) => document.getElementById(id);
const REACH_FT = 100;

export function mountScan(page) {
  const canvas = find("round");
  find("scan").addEventListener("click", async () => {
    find("scan").disabled = true;
    const found = await scan(REACH_FT, { gain: page.knob("gain"), punch: page.knob("punch") });
    find("scan").disabled = false;
    if (!found) return;
    canvas.hidden = false;
    draw(canvas, found, page.ink);
    spots(canvas, page);
    find("round-said").textContent = `All round, bow up, ${REACH_FT} ft out to the rim. One turn, now.`;
  });
}

function draw(canvas, { steps, bins, data }, ink) {
  const side = (canvas.width = canvas.height = canvas.clientWidth);
  const context = canvas.getContext("2d");
  const image = context.createImageData(side, side);
  const out = new Uint32Array(image.data.buffer);
  const middle = side / 2;
  for (let y = 0; y < side; y += 1) {
    for (let x = 0; x < side; x += 1) {
      const [dx, dy] = [x + 0.5 - middle, middle - y - 0.5];
      const away = Math.hypot(dx, dy) / middle;
      if (away >= 1) continue;
      const turn = (Math.atan2(dx, dy) / (2 * Math.PI) + 1) % 1;
      out[y * side + x] = ink[data[(Math.round(turn * steps) % steps) * bins + Math.floor(away * bins)]];
    }
  }
  context.putImageData(image, 0, 0);
}

// The chosen spot's bearing against the bow, where the chart says it is.
function spots(canvas, page) {
  const spot = page.spots.find((one) => one.id === page.chosen);
  if (!spot || !page.state) return;
  const [dx, dy] = [spot.x_m - page.state.x_m, spot.y_m - page.state.y_m];
  const turn = Math.atan2(dx, dy) - page.state.heading_rad;
  const away = (Math.hypot(dx, dy) / (REACH_FT * 0.3048)) * (canvas.width / 2);
  const context = canvas.getContext("2d");
  context.strokeStyle = getComputedStyle(document.documentElement).getPropertyValue("--accent");
  context.lineWidth = 3;
  context.beginPath();
  context.arc(canvas.width / 2 + away * Math.sin(turn), canvas.height / 2 - away * Math.cos(turn), 10, 0, 2 * Math.PI);
  context.stroke();
}
