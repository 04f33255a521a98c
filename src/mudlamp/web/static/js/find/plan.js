// The plan's form, the boat's controls, the views' pickers, and paths laid by hand.

import { ask } from "./api.js";

const find = (id) => document.getElementById(id);
const WAYS = { console: "Console first", live: "Live fan only, swept while creeping", middle: "Straight down the middle" };

export function mountPlan(page, root) {
  mountForm(page);
  mountBoat(page, root);
  mountViews(page);
  mountChart(page);
}

function asked(page) {
  const form = find("plan");
  const number = (name) => Number(form.elements[name].value);
  return { low_ft: number("low_ft"), high_ft: number("high_ft"), minutes: number("minutes"), speed_mph: Math.max(Number(find("speed").value), 1), has_side: form.elements.has_side.checked, season: form.elements.season.value };
}

function mountForm(page) {
  const form = find("plan");
  const band = () => {
    page.chart.band = [Number(form.elements.low_ft.value), Number(form.elements.high_ft.value)];
    find("band-said").textContent = `${page.chart.band[0]} to ${page.chart.band[1]} ft, the band you want`;
    page.chart.shade();
    page.draw();
  };
  band();
  form.elements.season.addEventListener("change", () => {
    const { low, high } = form.elements.season.selectedOptions[0].dataset;
    [form.elements.low_ft.value, form.elements.high_ft.value] = [low, high];
  });
  form.addEventListener("change", band);
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const plan = await ask("/plan", { method: "POST", body: asked(page) });
    if (!plan) return;
    page.planned = plan;
    const lines = [`${Math.round(plan.length_ft).toLocaleString("en-US")} ft in ${plan.minutes.toFixed(0)} min: ${plan.carrier_khz} kHz, ${Math.round(plan.reach_ft)} ft to each side, lanes ${Math.round(plan.spacing_ft)} ft apart`, ...plan.ways.map((way) => `${WAYS[way.name]}: ${Math.round(100 * way.share)} %`)];
    find("planned").replaceChildren(...lines.map((text) => Object.assign(document.createElement("li"), { textContent: text })));
    if (page.state) page.take(await ask("/steer", { method: "POST", body: { path: plan.path.slice(1) } }));
    page.draw();
  });
}

function mountBoat(page, root) {
  const speed = find("speed");
  const said = () => {
    const mph = Number(speed.value);
    find("speed-said").textContent = `${mph.toFixed(1)} mph${mph > 0 && (mph < Number(speed.dataset.slow) || mph > Number(speed.dataset.fast)) ? ", off true shape" : ""}`;
  };
  said();
  speed.addEventListener("input", said);
  speed.addEventListener("change", async () => page.state && page.take(await ask("/steer", { method: "POST", body: { speed_mph: Number(speed.value) } })));
  find("push-off").addEventListener("click", async () => {
    page.track = [];
    page.trackFrom = 0;
    page.mark = null;
    page.again();
    const state = await ask("/search", { method: "POST", body: asked(page) });
    if (!state) return;
    page.take(state);
    await page.solidAgain();
    if (page.planned) page.take(await ask("/steer", { method: "POST", body: { path: page.planned.path.slice(1), speed_mph: Number(speed.value) } }));
    page.draw();
  });
  for (const button of root.querySelectorAll("[data-pace]")) {
    button.addEventListener("click", async () => {
      if (!page.state) page.take(await ask("/search", { method: "POST", body: asked(page) }));
      if (!page.state) return;
      page.back = 0;
      find("back").value = find("back").max;
      find("back-said").textContent = "";
      page.take(await ask("/steer", { method: "POST", body: { pace: Number(button.dataset.pace), speed_mph: Number(speed.value) } }));
    });
  }
  find("back").addEventListener("input", () => {
    page.back = Number(find("back").max) - Number(find("back").value);
    find("back-said").textContent = page.back ? `${Math.round(page.back / (page.state?.ping_hz || 15))} s ago` : "";
    page.draw();
  });
  for (const knob of root.querySelectorAll("[data-knob]")) {
    if (knob.type === "range") knob.value = knob.dataset.knob === "gain" ? 65 : 50;
    const shown = () => knob.nextElementSibling?.tagName === "OUTPUT" && (knob.nextElementSibling.textContent = knob.value);
    shown();
    knob.addEventListener("input", shown);
    knob.addEventListener("change", () => page.again());
  }
  find("scroll").addEventListener("change", () => page.draw());
}

function mountViews(page) {
  find("third").addEventListener("click", () => {
    const third = page.views[2].figure;
    third.hidden = !third.hidden;
    third.parentElement.classList.toggle("with-third", !third.hidden);
    find("third").setAttribute("aria-pressed", String(!third.hidden));
    if (page.state) page.take(page.state);
    page.draw();
  });
  for (const view of page.views) {
    const pick = view.figure.querySelector("[data-pick]");
    pick.addEventListener("change", () => {
      view.setting = null;
      view.forget();
      page.pickers(view);
      const known = page.state?.views.find((one) => one.view === pick.value);
      if (known) page.take(page.state);
      else open(page);
    });
    for (const name of ["[data-carrier]", "[data-reach]"]) view.figure.querySelector(name).addEventListener("change", () => open(page));
  }
}

// Opens what the pickers say; two figures may show one view.
async function open(page) {
  if (!page.state) return;
  const wanted = new Map(page.state.views.map((one) => [one.view, { view: one.view, carrier_khz: one.carrier_khz, reach_ft: one.reach_m / 0.3048 }]));
  for (const view of page.views.filter((one) => !one.figure.hidden)) {
    const name = view.figure.querySelector("[data-pick]").value;
    wanted.set(name, { view: name, carrier_khz: Number(view.figure.querySelector("[data-carrier]").value), reach_ft: Number(view.figure.querySelector("[data-reach]").value) });
  }
  page.take(await ask("/views", { method: "POST", body: { views: [...wanted.values()] } }));
  page.again();
}

function mountChart(page) {
  const canvas = find("chart");
  const drawing = find("draw");
  let held = null;
  find("whole").addEventListener("click", () => {
    if (page.chart.follow) page.chart.whole();
    else [page.chart.follow, page.chart.scale] = [true, 2];
    find("whole").textContent = page.chart.follow ? "Whole water" : "Follow the boat";
    page.draw();
  });
  drawing.addEventListener("click", async () => {
    const done = page.draft;
    page.draft = page.draft ? null : [];
    drawing.setAttribute("aria-pressed", String(Boolean(page.draft)));
    drawing.textContent = page.draft ? "Go this way" : "Lay a path";
    if (done?.length && page.state) page.take(await ask("/steer", { method: "POST", body: { path: done } }));
    page.draw();
  });
  canvas.addEventListener("pointerdown", (event) => {
    held = { x: event.clientX, y: event.clientY, middle: [...page.chart.middle], moved: false };
    canvas.setPointerCapture(event.pointerId);
  });
  canvas.addEventListener("pointermove", (event) => {
    if (!held) return;
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y];
    if (Math.hypot(dx, dy) > 6) held.moved = true;
    if (!held.moved) return;
    page.chart.follow = false;
    find("whole").textContent = "Follow the boat";
    page.chart.middle = [held.middle[0] - dx / page.chart.scale, held.middle[1] + dy / page.chart.scale];
    page.draw();
  });
  canvas.addEventListener("pointerup", (event) => {
    const click = held && !held.moved;
    held = null;
    if (click && page.draft) page.draft.push(page.chart.toWater(event));
    else if (click) page.pointed(page.chart.toWater(event));
    page.draw();
  });
  canvas.addEventListener("wheel", (event) => {
    event.preventDefault();
    page.chart.scale = Math.min(12, Math.max(0.8, page.chart.scale * (event.deltaY < 0 ? 1.2 : 1 / 1.2)));
    page.draw();
  }, { passive: false });
}
