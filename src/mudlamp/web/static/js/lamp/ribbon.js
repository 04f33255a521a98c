// The ribbon: one lane a fish, the last half minute, how each reacted to the jig; and one for what bait did.

import { name } from "./marks.js";

const SPAN_S = 30;
const MOST_LANES = 3;
// About how wide a letter is [px].
const LETTER_PX = 9;
// Bait has a lane under this name.
const BAIT = "bait";
const SHAPE = {
  looked: ["thin", 1.0, "looked"],
  followed: ["", 2.2, "followed"],
  bit: ["good", 0.9, "bit"],
  hit_weight: ["good", 0.9, "hit the weight"],
  backed_off: ["bad", 1.4, "backed off"],
  refused: ["bad", 1.4, "refused"],
  spooked: ["bad", 0.8, "spooked"],
  left_with_school: ["bad", 0.8, "left with school"],
  no_answer: ["thin", 1.0, "no answer"],
  not_shown: ["thin", 0.6, "not shown"],
  tightens: ["thin", 2.0, "tightens"],
  bursts: ["good", 1.0, "bursts"],
};

export class Ribbon {
  constructor(root, list) {
    this.root = root;
    this.list = list;
    this.events = [];
    this.nowS = 0;
  }

  // A fish reacted; what it did, in words.
  add(event) {
    const said = `Fish ${name(event.track)} ${SHAPE[event.token][2]}`;
    this.note(event, said);
    return said;
  }

  addBait(event) {
    this.note({ track: BAIT, token: event.doing, time_s: event.time_s }, event.said);
  }

  note(event, said) {
    this.events.push(event);
    this.events = this.events.slice(-200);
    const item = document.createElement("li");
    item.dataset.token = event.token;
    item.textContent = said;
    this.list.append(item);
    while (this.list.children.length > 40) this.list.firstChild.remove();
  }

  // What a fish did last, and how long ago.
  last(track) {
    const event = this.events.findLast((one) => one.track === track && one.token !== "not_shown");
    return event && this.nowS - event.time_s < SPAN_S ? `${SHAPE[event.token][2]} ${Math.max(0, Math.round(this.nowS - event.time_s))} s ago` : "";
  }

  draw(nowS) {
    if (Math.abs(nowS - this.nowS) < 0.2) return;
    this.nowS = nowS;
    const recent = this.events.filter((event) => nowS - event.time_s < SPAN_S);
    if (recent.length === 0) {
      if (this.events.length > 0 && this.root.firstElementChild?.className !== "empty") this.root.replaceChildren(quiet());
      return;
    }
    const newest = new Map();
    // A fish that was only not shown the jig gets a lane when no other fish needs it.
    for (const event of recent) newest.set(event.track, Math.max(newest.get(event.track) ?? -1e9, event.time_s - (event.token === "not_shown" ? 1000 : 0)));
    const tracks = [...newest.entries()].sort((a, b) => b[1] - a[1]).slice(0, MOST_LANES).map((entry) => entry[0]).sort((a, b) => (a === BAIT) - (b === BAIT) || a - b);
    const letter = (100 * LETTER_PX) / (this.root.querySelector(".lane-line")?.clientWidth || this.root.clientWidth || 1);
    this.root.replaceChildren(...tracks.map((track) => lane(track, recent, nowS, letter)), times());
  }
}

function quiet() {
  const text = document.createElement("p");
  text.className = "empty";
  text.textContent = "Quiet: no fish reacted in the last 30 seconds.";
  return text;
}

// A lane, on which a letter takes so much of its length [%].
function lane(track, events, nowS, letter) {
  const row = document.createElement("div");
  row.className = "lane";
  const who = document.createElement("span");
  who.textContent = track === BAIT ? "Bait" : `Fish ${name(track)}`;
  const line = document.createElement("div");
  line.className = "lane-line";
  let next = Infinity;
  // The newest word stands; older ones where there is room before it.
  for (const event of events.filter((one) => one.track === track).reverse()) {
    const [tone, lengthS, word] = SHAPE[event.token];
    const mark = document.createElement("div");
    const left = 100 * (1 - (nowS - event.time_s) / SPAN_S);
    const width = Math.min((100 * lengthS) / SPAN_S, 100 - left);
    const late = left > 84;
    mark.className = `mark ${tone}${late ? " late" : ""}`;
    mark.style.left = `${Math.max(0, left)}%`;
    mark.style.width = `${width}%`;
    const begins = late ? left + width - letter * word.length : left;
    if (begins + letter * word.length <= next) {
      const text = document.createElement("span");
      text.textContent = word;
      mark.append(text);
      next = begins;
    }
    line.prepend(mark);
  }
  row.append(who, line);
  return row;
}

function times() {
  const row = document.createElement("div");
  row.className = "lane-times";
  const line = document.createElement("div");
  for (const text of ["30 s ago", "20 s", "10 s", "now"]) {
    const mark = document.createElement("span");
    mark.textContent = text;
    line.append(mark);
  }
  row.append(document.createElement("span"), line);
  return row;
}
