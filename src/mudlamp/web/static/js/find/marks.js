// One mark in every view, what is really there, spots, and the way to the live fan.

import { ask, sendFile } from "./api.js";

const find = (id) => document.getElementById(id);

export function mountMarks(page, root) {
  for (const view of page.views) {
    view.figure.querySelector(".find-marks").addEventListener("pointerdown", (event) => view.setting && page.head >= 0 && point(page, { view: view.setting.view, ...view.at(event, page.head, page.scroll) }));
  }
  const reveal = find("reveal");
  reveal.addEventListener("click", () => {
    page.revealing = !page.revealing;
    page.things = [];
    reveal.setAttribute("aria-pressed", String(page.revealing));
    if (page.revealing && page.mark) page.pointed([page.mark.x_m, page.mark.y_m]);
    page.draw();
  });
  page.pointed = async ([x_m, y_m]) => {
    if (!page.revealing || !page.state) return;
    page.things = (await ask("/reveal", { method: "POST", body: { x_m, y_m } })) ?? [];
    if (!page.things.length) page.things = [{ said: "nothing here", x_m, y_m }];
    page.draw();
  };
  page.readSpots = async () => {
    const spots = (await ask(`/spots?water=${page.water}`)) ?? [];
    page.spots = spots.map((spot, i) => ({ ...spot, number: i + 1 }));
    list(page);
  };
  find("keep").addEventListener("submit", async (event) => {
    event.preventDefault();
    const form = event.target;
    const again = form.elements.again.value || null;
    const { view, number, beam, slant_m } = page.mark.asked;
    const spot = await ask("/spots", { method: "POST", body: { view, number, beam, slant_m, kind: form.elements.kind.value, again } });
    if (!spot) return;
    await page.readSpots();
    choose(page, spot.id);
  });
  // A thing of a known length, which what is pointed at from now on is measured by, in whatever view.
  find("measure-by").addEventListener("submit", (event) => {
    event.preventDefault();
    const form = event.target;
    page.reference = page.reference ? null : { ...page.mark.asked, long_ft: Number(form.elements.long_ft.value) };
    form.elements.long_ft.disabled = Boolean(page.reference);
    form.querySelector("button").textContent = page.reference ? "Forget it" : "Measure by it";
    point(page, page.mark.asked);
  });
  document.addEventListener("keydown", (event) => {
    if (event.key === "m" && !event.target.closest("input, select, textarea") && page.mark) find("keep").requestSubmit();
  });
  find("go-there").addEventListener("click", async () => {
    const way = page.way;
    if (way && !way.there) page.take(await ask("/steer", { method: "POST", body: { path: [way.stop], speed_mph: 2, pace: 1 } }));
  });
  find("spots-file").addEventListener("change", async (event) => {
    const [file] = event.target.files;
    const read = file && (await sendFile(`/spots.geojson?water=${page.water}`, file));
    event.target.value = "";
    if (!read) return;
    await page.readSpots();
    page.draw();
  });
  find("lower").addEventListener("click", async () => {
    const found = await ask(`/lower/${page.chosen}`, { method: "POST" });
    if (found) location.assign("/");
  });
  find("mood").addEventListener("change", () => page.chosen && way(page));
  setInterval(() => page.chosen && way(page), 1500);
}

async function point(page, asked) {
  const mark = await ask("/mark", { method: "POST", body: page.reference ? { ...asked, reference: page.reference } : asked });
  if (!mark) return;
  page.mark = { ...mark, asked };
  find("mark-said").textContent = markWords(mark) + sizeWords(mark);
  find("keep").hidden = false;
  find("measure-by").hidden = !page.reference && !mark.views.some((one) => one.along_in !== null);
  const own = page.spots.filter((spot) => spot.own);
  find("keep").elements.again.replaceChildren(new Option("a new spot", ""), ...own.map((spot) => new Option(`a second look at ${spot.number}`, spot.id)));
  if (page.revealing) page.pointed([mark.x_m, mark.y_m]);
  page.draw();
}

const NAMES = { scrolling: "scrolling", down: "straight down", side: "to the side" };

// How large it looks in each picture: none of them is how large it is.
function sizeWords(mark) {
  const looks = mark.views.filter((one) => one.along_in !== null).map((one) => `${one.along_in} by ${one.across_in} in ${NAMES[one.view]}`);
  const known = mark.views.filter((one) => one.by_reference_in !== null).map((one) => `${one.by_reference_in} in by ${NAMES[one.view]}`);
  const measured = known.length ? ` By your reference it is ${known.join(", ")} along the track.` : "";
  return (looks.length ? ` Looks ${looks.join(", ")} (along by across); reveal it for its true size.` : "") + measured;
}

function markWords(mark) {
  const side = { port: "left", starboard: "right", under: "" }[mark.side];
  const others = mark.views.filter((one) => one.view !== mark.views[0].view).length;
  const seen = others ? " Ringed in the other picture." : " The other picture did not hear it.";
  const sure = ` Within ${Math.round(mark.long_m / 0.3048)} by ${Math.round(mark.short_m / 0.3048)} ft, nine times in ten.`;
  if (mark.side === "under") return `${mark.depth_ft} ft down, under the boat's track, to which side this picture cannot say.${sure}${seen}`;
  if (mark.lies === "above") return `${mark.slant_ft} ft off to the ${side} along the beam, off the bottom: anywhere on the dashed arc, ${mark.shallowest_ft} to ${mark.deepest_ft} ft down. Look again from another side.${seen}`;
  return `${mark.out_ft} ft out to the ${side}, on the bottom in ${mark.depth_ft} ft (slant ${mark.slant_ft} ft).${sure}${seen}`;
}

function list(page) {
  const items = page.spots.map((spot) => {
    const item = document.createElement("li");
    const pick = document.createElement("button");
    pick.type = "button";
    pick.className = "find-spot";
    pick.textContent = `${spot.number} ${spot.kind}${spot.depth_ft === null ? "" : `, ${Math.round(spot.depth_ft)} ft`}${spot.looks > 1 ? `, ${spot.looks} looks` : ""}${spot.note ? `: ${spot.note}` : ""}`;
    pick.setAttribute("aria-pressed", String(spot.id === page.chosen));
    pick.addEventListener("click", () => choose(page, spot.id));
    item.append(pick);
    if (spot.own) {
      const drop = document.createElement("button");
      drop.type = "button";
      drop.className = "find-drop";
      drop.textContent = "Delete";
      drop.setAttribute("aria-label", `Delete spot ${spot.number}`);
      drop.addEventListener("click", async () => {
        if (drop.textContent === "Delete") drop.textContent = "Really?";
        else if (await ask(`/spots/${spot.id}`, { method: "DELETE" })) {
          if (page.chosen === spot.id) page.chosen = null;
          await page.readSpots();
          page.draw();
        }
      });
      item.append(drop);
    }
    return item;
  });
  find("spots").replaceChildren(...items);
}

function choose(page, id) {
  page.chosen = id;
  list(page);
  way(page);
  page.draw();
}

async function way(page) {
  if (!page.state) {
    find("way").textContent = "Push off first: from the boat this says how to come to the spot.";
    return;
  }
  const found = await ask(`/handoff/${page.chosen}?mood=${find("mood").value}`);
  if (!found) return;
  page.way = found;
  const turn = Math.abs(found.turn_deg) < 5 ? "straight ahead" : `turn ${found.turn_deg < 0 ? "left" : "right"} ${Math.abs(found.turn_deg)}°`;
  find("way").textContent = found.there
    ? `${Math.round(found.away_ft)} ft off, ${turn}: near enough. Do not idle over it; silence the console's transducers, then lower the fan.`
    : `${Math.round(found.away_ft)} ft off, ${turn}. Stop ${Math.round(found.stand_off_ft)} ft short.`;
  find("way-acts").hidden = false;
}
