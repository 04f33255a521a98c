// The Lamp page: puts the parts together.

import { Bench } from "./bench.js";
import { mountExplain } from "./explain.js";
import { colors, fit, FOOT, fromPage } from "./geometry.js";
import { Hands } from "./hands.js";
import { mountKeys } from "./keys.js";
import { Loupe } from "./loupe.js";
import { Pace } from "./pace.js";
import { acrossScale, drawPlan } from "./plan.js";
import { Rail } from "./rail.js";
import { Ribbon } from "./ribbon.js";
import { Setups } from "./setups.js";
import { LampSocket } from "./socket.js";
import { Spots } from "./spots.js";
import { Stage } from "./stage.js";
import { Tour } from "./tour.js";
import { makeTexts } from "./texts.js";
import { currentTheme } from "../shared/theme.js";
import { mountSides } from "./twin.js";
import { Waters } from "./waters.js";
import { Who } from "./who.js";

const INK_OF = { noon: { chalk: "soot", "terrace-dusk": "terrace" }, dusk: { soot: "chalk", terrace: "terrace-dusk" } };
const NOTHING = { tracks: [], schools: [], bait: [], spots: [], truth: [], lure: "stowed", heading_rad: 0, guessing: "" };

function mount(root) {
  const find = (id) => document.getElementById(id);
  const simulated = root.dataset.simulated === "true";
  const receiver = root.dataset.receiver.split(" ");
  const stages = [new Stage(find("side")), new Stage(find("side-b"))];
  const page = { state: null, scene: NOTHING, hover: null, tone: colors(), remedy: null, casts: [], call: null };
  const ribbon = new Ribbon(find("ribbon"), find("events"));
  const pace = new Pace(root);
  const send = (message, seq) => {
    if (socket.send(message) && seq !== undefined) pace.moved(seq);
  };
  const rail = new Rail(find("rail"), send);
  const pane = () => page.state.panes["ab".indexOf(rail.side)];
  const waters = new Waters(find("waters"), { session: () => socket.session });
  const bench = new Bench(find("bench"), { send, save: () => waters.save(), shown: () => (page.again = true) });
  const loupe = new Loupe(find("loupe"), stages[0]);
  const texts = makeTexts({ page, root, find, rail, bench, pace, ribbon, matchInk, reacted: (token, said) => tour?.reaction(token, said) });
  const socket = new LampSocket({
    onFrame: (frame) => (stages[frame.side].frame = stages[frame.side].last = frame),
    onText: (message) => texts[message.type]?.(message),
    onLine: (message) => {
      find("veil").textContent = message;
      find("veil").classList.toggle("shown", message !== "");
      root.dataset.line = message === "" ? "up" : "down";
      find("again").hidden = true;
    },
    onGone: (message, canBeMade) => {
      find("veil").textContent = message;
      find("veil").classList.add("shown");
      root.dataset.line = "gone";
      find("again").hidden = !canBeMade;
      if (canBeMade) find("again").focus();
    },
  });

  // Each picture from the given one on is drawn in the theme's ink.
  function matchInk(from = 0) {
    for (const [at, one] of page.state.panes.entries()) {
      const wanted = at >= from && INK_OF[currentTheme()][one.controls.ink];
      if (wanted) rail.setAll({ ink: wanted }, "ab"[at]);
    }
  }

  function throwAtFish() {
    const fish = page.scene.tracks.filter((track) => track.kind === "fish" && !track.coasting).sort((a, b) => a.range_m - b.range_m)[0];
    // Where the cast for it lands; else past it, so that the jig sinks behind it and comes back over its head.
    const cast = page.casts.find((one) => one.id === fish?.id);
    if (fish) send({ type: "throw", ahead_m: cast ? cast.splash_m : fish.ahead_m + 1.2, across_m: 0 });
    else find("hand").textContent = "Not following any fish right now: click where to cast.";
  }

  const toggleHelp = () => (find("keys").open ? find("keys").close() : find("keys").showModal());
  const at = (element, event) => {
    const box = element.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const placeOf = (event, element, isPlan, nearest = 1) => {
    const { view } = stages[0];
    if (!view) return null;
    const [x, y] = at(element, event);
    const [ahead, other] = fromPage(view, x, y);
    const across = isPlan ? (y - element.clientHeight / 2) / acrossScale(page.state, view, element.clientHeight) : view.flat ? other : 0;
    return ahead < nearest ? null : { ahead_m: ahead, across_m: across };
  };
  const side = find("side");
  // A mark as it is kept: the side view says how deep, the plan how far to a side.
  const tapped = (event, element, isPlan) => {
    const where = placeOf(event, element, isPlan, -Infinity);
    if (!where || isPlan || stages[0].view.flat) return where;
    return { ...where, depth_m: Math.max(fromPage(stages[0].view, ...at(element, event))[1], 0) };
  };
  const look = {
    near: (event) => loupe.near(...at(side, event), page.scene),
    start: (event) => {
      const started = loupe.start(...at(side, event), page.scene);
      // The fish that was looked at stays the chosen one.
      if (started) page.chosen = loupe.followed;
      return started;
    },
    stop: () => loupe.stop(),
  };
  const lure = () => page.scene.lure;
  const spots = new Spots(find, {
    button: find("spot"),
    session: () => socket.session,
    surfaces: [
      [side, false],
      [find("plan"), true],
    ],
    place: tapped,
    line: (text, ms) => texts.notice(text, ms),
  });
  new Hands(side, { send, lure, loupe: look, rod: simulated, place: (event) => placeOf(event, side, false) });
  if (simulated) new Hands(find("plan"), { send, lure, rod: true, place: (event) => placeOf(event, find("plan"), true) });
  side.addEventListener("pointermove", (event) => {
    const { view } = stages[0];
    if (!view || bench.stretched) return;
    const [x, y] = at(side, event);
    const [ahead, down] = fromPage(view, x, y);
    page.hover = x;
    find("hover").textContent = `${Math.round(ahead / FOOT)} out, ${Math.round(Math.abs(down) / FOOT)} ${view.flat ? (down < 0 ? "left" : "right") : "down"}`;
  });
  side.addEventListener("pointerleave", () => ((page.hover = null), (find("hover").textContent = "")));
  find("again").addEventListener("click", () => socket.again());
  find("throw")?.addEventListener("click", throwAtFish);
  find("tied")?.addEventListener("change", (event) => send({ type: "tie", head_oz: Number(event.target.value) }));
  const tour = simulated ? new Tour(find, { page, stage: stages[0], rail, bench, send, cast: throwAtFish }) : null;
  find("help").addEventListener("click", toggleHelp);
  find("keys-close").addEventListener("click", toggleHelp);
  find("remedy").addEventListener("click", () => page.remedy && rail.setAll({ [page.remedy.control]: page.remedy.value }, "a"));
  mountExplain(find("rail"), { send, side: () => rail.side });
  mountSides(find("sides"), { rail, send, changed: () => page.state && texts.state({ ...page.state, acknowledged: [] }) });
  new Setups({ rail, controls: () => Object.fromEntries(receiver.map((name) => [name, pane().controls[name]])) });
  const who = new Who(find, { page, send, ribbon, chosen: () => stages[0].chosen });
  mountKeys({ send, rail, throwAtFish, toggleHelp, bench, who, spots });
  document.addEventListener("lamp:theme", () => {
    page.tone = colors();
    if (page.state) matchInk();
  });

  function redraw() {
    requestAnimationFrame(redraw);
    const { state } = page;
    if (!state) return;
    // A change of what is drawn shows at once, even where the picture stands still.
    if (page.again) for (const stage of stages) stage.frame ??= stage.last;
    page.again = false;
    const options = { truth: bench.truth, screen: bench.stretched ? state.screen : null, sampled: bench.sampled, marks: bench.marks, chosen: page.chosen, casts: castsNow(page), brief: Boolean(state.panes[1]), guessFirst: page.guessFirst };
    // A pane may show less than the pings cover.
    const looks = state.panes.map((one) => ({ ...state, window: one.window }));
    const frame = stages[0].draw(looks[0], state.panes[0].ink, page.scene, page.tone, options);
    if (looks[1]) stages[1].draw(looks[1], state.panes[1].ink, page.scene, page.tone, options);
    loupe.draw(page.scene, page.tone);
    if (!frame) return;
    who.tell(castsNow(page));
    if (!state.panes[1] && state.fan !== "flat") {
      const size = fit(find("plan-marks"));
      drawPlan(find("plan-marks").getContext("2d"), size, looks[0], stages[0].view, page.scene, page.tone, page.hover, castsNow(page).find((each) => each.id === stages[0].chosen?.id));
    }
    ribbon.draw(frame.timeS);
    pace.drew(frame);
  }
  requestAnimationFrame(redraw);
}

// With the lure in the water nobody asks where to throw.
const castsNow = (page) => (page.state.source === "simulated" && page.scene.lure !== "stowed" ? [] : page.casts);

mount(document.getElementById("lamp"));
