// The Lamp page: puts the parts together.

import { colors, fit, FOOT, fromPage } from "./geometry.js";
import { Hands } from "./hands.js";
import { mountKeys } from "./keys.js";
import { Pace } from "./pace.js";
import { Picture } from "./picture.js";
import { drawPlan } from "./plan.js";
import { Rail } from "./rail.js";
import { showReadings } from "./readings.js";
import { Ribbon } from "./ribbon.js";
import { drawSide } from "./side.js";
import { LampSocket } from "./socket.js";
import { currentTheme } from "./theme.js";

const HAND = {
  stowed: "Click in the water to throw.",
  flying: "In the air…",
  sinking: "Sinking on an open bail: press to stop it.",
  tight: "On a tight line: hold to reel, double tap or Space lets it sink.",
  taken: "A fish has it: hold to reel!",
};
const INK_OF = { noon: { chalk: "soot", "terrace-dusk": "terrace" }, dusk: { soot: "chalk", terrace: "terrace-dusk" } };

function mount(root) {
  const find = (id) => document.getElementById(id);
  const side = find("side");
  const sideMarks = find("side-marks");
  const planMarks = find("plan-marks");
  const picture = new Picture(find("side-picture"));
  const ribbon = new Ribbon(find("ribbon"), find("events"));
  const pace = new Pace(root);
  const page = { state: null, frame: null, scene: { tracks: [], bait: [], truth: [], lure: "stowed" }, hover: null, tone: colors() };

  const send = (message, seq) => {
    if (socket.send(message) && seq !== undefined) pace.moved(seq);
  };
  const rail = new Rail(find("rail"), send);
  const socket = new LampSocket({
    scene: root.dataset.scene,
    onFrame: (frame) => (page.frame = frame),
    onText: (message) => texts[message.type]?.(message),
    onLine: (message) => {
      find("veil").textContent = message;
      find("veil").classList.toggle("shown", message !== "");
      root.dataset.line = message === "" ? "up" : "down";
    },
  });

  const texts = {
    state(state) {
      const first = page.state === null;
      page.state = state;
      pace.acknowledged(state.acknowledged, state.revision);
      rail.take(state.controls);
      root.dataset.scripted = String(state.scripted);
      if (first) matchInk();
    },
    tracks(scene) {
      page.scene = scene;
      root.dataset.lure = scene.lure;
      find("hand").textContent = page.state?.scripted ? "A scripted angler is fishing. Click in the water to take the rod." : HAND[scene.lure];
    },
    readings(message) {
      showReadings(find("readings"), message.readings);
      find("erased").textContent = `${message.erased}.`;
      find("saved").textContent = message.away ? `database away: ${message.waiting} lines wait, none is lost` : message.waiting > 5 ? `log: saving ${message.waiting}` : "log: saved";
    },
    reaction: (event) => ribbon.add(event),
    refused: (message) => (find("hand").textContent = message.message),
    ended: () => (find("hand").textContent = "The session ended."),
  };

  function matchInk() {
    const wanted = INK_OF[currentTheme()][page.state.controls.ink];
    if (wanted) rail.set("ink", wanted);
  }

  function throwAtFish() {
    const fish = page.scene.tracks.filter((track) => track.kind === "fish" && !track.coasting).sort((a, b) => a.range_m - b.range_m)[0];
    // Past the fish, so that the jig sinks behind it and is drawn over its head.
    if (fish) send({ type: "throw", ahead_m: fish.ahead_m + 1.2, across_m: 0 });
    else find("hand").textContent = "No fish is followed at the moment: click where to throw.";
  }

  const toggleHelp = () => (find("keys").open ? find("keys").close() : find("keys").showModal());
  const at = (element, event) => {
    const box = element.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const placeOf = (event, element, isPlan) => {
    if (!picture.view) return null;
    const [x, y] = at(element, event);
    const [ahead, other] = fromPage(picture.view, x, y);
    const across = isPlan ? (y - element.clientHeight / 2) / picture.view.scale : picture.view.flat ? other : 0;
    return ahead < 1 ? null : { ahead_m: ahead, across_m: across };
  };
  const lure = () => page.scene.lure;
  new Hands(side, { send, lure, place: (event) => placeOf(event, side, false) });
  new Hands(find("plan"), { send, lure, place: (event) => placeOf(event, find("plan"), true) });
  side.addEventListener("pointermove", (event) => {
    if (!picture.view) return;
    const [x, y] = at(side, event);
    const [ahead, down] = fromPage(picture.view, x, y);
    page.hover = x;
    find("hover").textContent = `${Math.round(ahead / FOOT)} out, ${Math.round(Math.abs(down) / FOOT)} ${picture.view.flat ? (down < 0 ? "left" : "right") : "down"}`;
  });
  side.addEventListener("pointerleave", () => ((page.hover = null), (find("hover").textContent = "")));
  find("throw").addEventListener("click", throwAtFish);
  find("show-me").addEventListener("click", () => send({ type: "show_me" }));
  find("help").addEventListener("click", toggleHelp);
  find("keys-close").addEventListener("click", toggleHelp);
  mountKeys({ send, rail, throwAtFish, toggleHelp });
  document.addEventListener("lamp:theme", () => {
    page.tone = colors();
    if (page.state) matchInk();
  });

  function redraw() {
    requestAnimationFrame(redraw);
    const { frame, state } = page;
    if (!frame || !state) return;
    page.frame = null;
    const size = fit(picture.canvas);
    fit(sideMarks);
    const planSize = fit(planMarks);
    picture.prepare(state, size, frame.beams, frame.bins);
    picture.draw(frame.picture);
    drawSide(sideMarks.getContext("2d"), size, state, picture.view, page.scene, page.tone);
    drawPlan(planMarks.getContext("2d"), planSize, state, picture.view, page.scene, page.tone, page.hover);
    ribbon.draw(frame.timeS);
    pace.drew(frame);
  }
  requestAnimationFrame(redraw);
}

mount(document.getElementById("lamp"));
