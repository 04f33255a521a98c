// What the session says, and where it goes on the page.

import { showAuto, showPrice, showSettled } from "./explain.js";
import { showReadings } from "./readings.js";
import { showTwin } from "./twin.js";

const HAND = {
  stowed: "Click in the water to throw.",
  flying: "In the air…",
  sinking: "Sinking on an open bail: press to stop it.",
  tight: "On a tight line: hold to reel, double tap or Space lets it sink.",
  taken: "A fish has it: hold to reel!",
};
const REFUSAL_MS = 4500;
const STILL = { frozen: "Frozen: One ping goes on, Freeze runs on.", replay: "The last minute again: it is not now.", slow: "Slow: a quarter of its time." };

export const RECEIVER = ["gain", "near_cut_db", "quieting_pings", "ghost_cut_db", "punch", "hide_below_db", "ink"];

export function handWords(state, lure) {
  if (state && STILL[state.pace]) return STILL[state.pace];
  if (state?.source === "recorded") return "A recording plays, round and round: there is no rod in it.";
  return state?.scripted ? "A scripted angler is fishing. Click in the water to take the rod." : HAND[lure];
}

export function makeTexts({ page, root, find, rail, bench, pace, ribbon, matchInk }) {
  // A refusal stands long enough to be read; then the line tells of the hand again.
  const refusal = { text: "", until: 0 };
  const hand = (text) => (find("hand").textContent = performance.now() < refusal.until ? refusal.text : text);
  return {
    state(state) {
      const first = page.state === null;
      const hadTwin = page.state?.panes.length === 2;
      page.state = state;
      pace.acknowledged(state.acknowledged, state.revision);
      const twin = state.panes.length === 2;
      if (!twin) rail.side = "a";
      showSides(find, rail, twin);
      const pane = state.panes["ab".indexOf(rail.side)];
      rail.take({ ...state.controls, ...pane.controls });
      showAuto(find("rail"), pane, state);
      bench.take(state);
      root.dataset.scripted = String(state.scripted);
      root.dataset.pace = state.pace;
      root.classList.toggle("with-twin", twin);
      root.classList.toggle("lies-flat", state.fan === "flat");
      find("side-b").hidden = !twin;
      if (first) {
        matchInk();
        bench.tellScreen();
      } else if (twin && !hadTwin) matchInk(1);
      hand(handWords(state, page.scene.lure));
    },
    tracks(scene) {
      page.scene = scene;
      root.dataset.lure = scene.lure;
      if (!bench.stretched) hand(handWords(page.state, scene.lure));
    },
    readings(message) {
      showReadings(find("readings"), message.readings);
      showTwin(find("twin-table"), message.twin);
      showSettled(find("rail"), message.settled_pct["ab".indexOf(rail.side)] ?? 100);
      find("erased").textContent = `${message.erased}.`;
      if (!message.anything_erased) find("remedy").hidden = true;
      page.screenWords = message.screen;
      find("unit-answer").textContent = `Across ${message.screen.across_px_ft} px/ft, down ${message.screen.down_px_ft}: ${message.screen.shape}. Jig: ${message.screen.lure}.`;
      if (bench.stretched) hand(find("unit-answer").textContent);
      find("saved").textContent = message.away ? `database away: ${message.waiting} lines wait, none is lost` : message.waiting > 5 ? `log: saving ${message.waiting}` : "log: saved";
    },
    remedy(message) {
      const button = find("remedy");
      button.hidden = message.words === "";
      button.textContent = message.words;
      button.disabled = message.change === null;
      page.remedy = message.change;
    },
    price: (message) => showPrice(find("rail"), message),
    place: (message) => bench.place(message),
    reaction: (event) => ribbon.add(event),
    refused(message) {
      // What the state says next shows at once, also on the control that was refused.
      rail.touched.clear();
      Object.assign(refusal, { text: message.message, until: performance.now() + REFUSAL_MS });
      hand(message.message);
    },
    ended: () => hand("The session ended."),
  };
}

function showSides(find, rail, twin) {
  find("sides").hidden = !twin;
  const radio = find("sides").querySelector(`input[value="${rail.side}"]`);
  radio.checked = true;
}
