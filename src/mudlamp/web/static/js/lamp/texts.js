// What the session says, and where the page shows it.

import { showAuto, showPrice, showSettled } from "./explain.js";
import { showReadings } from "./readings.js";
import { showTwin } from "./twin.js";

const HAND = {
  stowed: "Click the water to cast.",
  flying: "In the air…",
  sinking: "Sinking on an open bail. Press to stop it.",
  tight: "On a tight line. Hold to reel; double-tap or Space lets it sink.",
  taken: "Fish on! Hold to reel.",
};
const REFUSAL_MS = 4500;
const STILL = {
  frozen: "Frozen. Step: one ping. Freeze again to resume.",
  replay: "This is the last minute, not live.",
  slow: "Slow: a quarter of real speed.",
};

export function handWords(state, lure) {
  if (state && STILL[state.pace]) return STILL[state.pace];
  if (state?.source === "recorded") return "Playing a recording on a loop. There is no rod in it.";
  return state?.scripted ? "A scripted angler is fishing. Click the water to take the rod." : HAND[lure];
}

export function makeTexts({ page, root, find, rail, bench, pace, ribbon, matchInk, reacted }) {
  // A refusal stays up long enough to be read; then the line is about the hand again.
  const refusal = { text: "", until: 0 };
  const screenWords = (screen) => `Your screen: ${screen.across_px_ft} px/ft across, ${screen.down_px_ft} down: ${screen.shape}. Jig: ${screen.lure}.`;
  let trouble = "";
  const hand = (text) => (find("hand").textContent = performance.now() < refusal.until ? refusal.text : trouble || text);
  return {
    // Says something for so long [ms]; nothing to say ends it.
    notice(text, ms = 6000) {
      refusal.text = text;
      refusal.until = text ? performance.now() + ms : 0;
      hand(handWords(page.state, page.scene.lure));
    },
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
      showTied(find("tied"), state.head);
      root.classList.toggle("with-twin", twin);
      root.classList.toggle("lies-flat", state.fan === "flat");
      find("side-b").hidden = !twin;
      if (first) matchInk();
      else if (twin && !hadTwin) matchInk(1);
      hand(handWords(state, page.scene.lure));
    },
    tracks(scene) {
      page.scene = scene;
      root.dataset.lure = scene.lure;
      if (!bench.stretched) hand(handWords(page.state, scene.lure));
    },
    readings(message) {
      trouble = message.trouble;
      page.casts = message.casts;
      page.call = message.call;
      find("hand").classList.toggle("bad", trouble !== "");
      showReadings(find("readings"), message.readings);
      showTwin(find("twin-table"), message.twin);
      showSettled(find("rail"), message.settled_pct["ab".indexOf(rail.side)] ?? 100);
      find("hidden").textContent = `${message.erased}.`;
      if (!message.anything_erased) find("remedy").hidden = true;
      if (bench.stretched) hand(screenWords(message.screen));
      find("saved").textContent = message.away ? `database down: ${message.waiting} rows waiting, none lost` : message.waiting > 5 ? `log: saving ${message.waiting}` : "log: saved";
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
    reaction(event) {
      reacted(event.token, ribbon.add(event));
    },
    bait(event) {
      ribbon.addBait(event);
      this.notice(event.said);
    },
    refused(message) {
      // What the state says next shows at once, also on the control that was refused.
      rail.touched.clear();
      Object.assign(refusal, { text: message.message, until: performance.now() + REFUSAL_MS });
      hand(message.message);
    },
    ended: () => {}, // the socket closes behind it, and says what can be done
  };
}

function showSides(find, rail, twin) {
  find("sides").hidden = !twin;
  const radio = find("sides").querySelector(`input[value="${rail.side}"]`);
  radio.checked = true;
}

// The head that is tied on; one that is not sold has no line in the list.
function showTied(list, said) {
  if (!list || document.activeElement === list) return;
  const found = [...list.options].findIndex((one) => one.dataset.said === said);
  list.selectedIndex = found;
}
