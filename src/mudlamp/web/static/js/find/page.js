// The Find page put together: chart, two views, the boat, marks and spots. It draws and listens; all that is worked out comes from the server.

import { ask, bytes, columns } from "./api.js";
import { Chart } from "./chart.js";
import { KEPT, View, inkTable } from "./views.js";
import { mountPlan } from "./plan.js";
import { mountMarks } from "./marks.js";
import { mountScan } from "./scan.js";
import { mountSolid } from "./solid.js";
import { currentTheme } from "../shared/theme.js";

const find = (id) => document.getElementById(id);
const root = find("find");
const MOST_AT_ONCE = 600;

const page = {
  water: root.dataset.water,
  chart: null,
  inks: {},
  state: null,
  track: [],
  trackFrom: 0,
  spots: [],
  chosen: null,
  mark: null,
  things: [],
  draft: null,
  views: [...root.querySelectorAll(".find-view")].map((figure) => new View(figure)),
  back: 0,
  get scroll() {
    return Number(find("scroll").value);
  },
  get head() {
    return Math.max((this.state?.newest ?? -1) - this.back, -1);
  },
  knob(name) {
    return root.querySelector(`[data-knob="${name}"]`).value;
  },
  get ink() {
    return this.inks[currentTheme() === "noon" ? "soot" : "chalk"];
  },
};

function knobs() {
  return Object.fromEntries([...root.querySelectorAll("[data-knob]")].map((one) => [one.dataset.knob, one.value]));
}

// What the chart shows now.
function scene() {
  const reach = Math.max(0, ...(page.state?.views ?? []).filter((one) => one.view === "side").map((one) => one.reach_m));
  return {
    boat: page.state,
    track: page.track,
    path: page.draft ?? (page.state ? [[page.state.x_m, page.state.y_m], ...page.state.path] : (page.planned?.path ?? [])),
    reach_m: reach,
    spots: page.spots,
    chosen: page.chosen,
    mark: page.mark,
    things: page.things,
  };
}

page.draw = () => {
  if (!page.chart) return;
  page.chart.draw(scene());
  for (const view of page.views.filter((one) => !one.figure.hidden)) {
    view.draw(page.head, page.scroll, page.ink);
    view.figure.querySelector("[data-scale]").textContent = scaleWords(view);
    view.drawMark(page.mark?.views.find((one) => one.view === view.setting?.view), page.head, page.scroll, ...["--accent", "--paper"].map((name) => getComputedStyle(root).getPropertyValue(name)));
  }
};

function scaleWords(view) {
  if (!view.setting) return "";
  const seconds = Math.round(view.pings(page.scroll) / (page.state?.ping_hz || 15));
  const feet = Math.round(view.setting.reach_m / 0.3048);
  return view.isSide ? `${feet} ft to each side, ${seconds} s` : `${feet} ft down, ${seconds} s`;
}

async function fetchColumns() {
  for (const view of page.views) {
    if (!view.setting || view.figure.hidden || page.head < 0) continue;
    const first = Math.max(page.head - Math.min(view.pings(page.scroll), KEPT - 1), 0);
    const gap = view.missing(first, page.head + 1);
    if (!gap) continue;
    // The newest first: they are nearest to the boat.
    const found = await columns(view.setting.view, Math.max(gap[0], gap[1] - MOST_AT_ONCE), gap[1], knobs());
    if (found) view.put(found);
  }
}

page.again = () => {
  for (const view of page.views) view.have.fill(-1);
};

function say(state) {
  const said = [`${Math.floor(state.time_s / 60)}:${String(Math.floor(state.time_s % 60)).padStart(2, "0")}`, `${state.depth_ft.toFixed(0)} ft of water`];
  if (state.is_full) said.push("three hours are the most that one search keeps: start over");
  else if (state.aground) said.push("stopped: the shore is right ahead. Lay another path");
  else if (state.pace > 1 && state.kept_pace < 0.85 * state.pace) said.push(`this machine keeps up ${state.kept_pace.toFixed(1)}×`);
  find("now").textContent = said.join(" · ");
  find("share").textContent = `${Math.round(100 * state.share)} %`;
  find("share-left").textContent = state.share > 0 ? `Chance that a school is left: ${Math.round(100 * (1 - state.share))} %` : "";
  find("leg").textContent = legWords(state);
  for (const button of root.querySelectorAll("[data-pace]")) button.setAttribute("aria-pressed", String(Number(button.dataset.pace) === state.pace));
}

function legWords(state) {
  if (!state.path.length) return "No path is left: plan a search, or lay a path on the chart.";
  const [x, y] = state.path[0];
  const turn = Math.atan2(x - state.x_m, y - state.y_m) - state.heading_rad;
  const degrees = Math.round((Math.atan2(Math.sin(turn), Math.cos(turn)) * 180) / Math.PI);
  const turning = Math.abs(degrees) < 8 ? "Hold this line" : `Turn ${degrees < 0 ? "left" : "right"} ${Math.abs(degrees)}°`;
  return `${turning}, ${Math.round(state.left_m / 0.3048)} ft of the path are left.`;
}

page.take = (state) => {
  if (!state) return;
  page.state = state;
  // What answers an order has no track with it: the next look brings it, without a gap.
  if (state.track.length) {
    page.track.push(...state.track);
    page.trackFrom = state.track_from;
  }
  page.views.forEach((view) => {
    const wanted = view.figure.querySelector("[data-pick]").value;
    const setting = state.views.find((one) => one.view === wanted);
    if (setting && view.open(setting, state.bins)) page.pickers(view);
  });
  find("back").max = Math.max(state.newest, 0);
  find("back").value = find("back").max - page.back;
  find("push-off").textContent = "Start over";
  say(state);
};

let busy = false;
async function turn() {
  if (busy || !page.state) return;
  busy = true;
  const state = await ask(`/search?since=${page.trackFrom}`);
  if (state) {
    page.take(state);
    await fetchColumns();
    page.draw();
  }
  busy = false;
}

page.pickers = (view) => {
  const pick = view.figure.querySelector("[data-pick]");
  const carrier = view.figure.querySelector("[data-carrier]");
  carrier.replaceChildren(...pick.selectedOptions[0].dataset.carriers.split(",").map((khz) => new Option(`${khz} kHz`, khz)));
  if (view.setting) carrier.value = String(Math.round(view.setting.carrier_khz));
  const reach = view.figure.querySelector("[data-reach]");
  if (view.setting) reach.value = [...reach.options].map((one) => one.value).reduce((a, b) => (Math.abs(b - view.setting.reach_m / 0.3048) < Math.abs(a - view.setting.reach_m / 0.3048) ? b : a));
};

async function start() {
  const raw = await ask(`/chart?water=${page.water}`);
  if (!raw) return;
  page.inks = Object.fromEntries(Object.entries(raw.inks).map(([name, table]) => [name, inkTable(bytes(table))]));
  page.chart = new Chart(find("chart"), raw);
  page.views[0].figure.querySelector("[data-pick]").value = "down";
  page.views[1].figure.querySelector("[data-pick]").value = "side";
  page.views[2].figure.querySelector("[data-pick]").value = "scrolling";
  page.views.forEach((view) => page.pickers(view));
  mountPlan(page, root);
  mountMarks(page, root);
  mountScan(page);
  mountSolid(page);
  page.take(await ask("/search?since=0"));
  await page.readSpots();
  page.draw();
  setInterval(turn, 160);
}

document.addEventListener("lamp:theme", () => {
  page.chart?.shade();
  page.draw();
});
window.addEventListener("resize", () => page.draw());
start();
