// The chosen fish: who it is thought to be, what was measured of it, what it did; and what the angler says it is.

import { name } from "./marks.js";

// So long a statement can be taken back.
const TAKE_BACK_MS = 10000;

export class Who {
  constructor(find, { page, send, ribbon, chosen }) {
    this.page = page;
    this.send = send;
    this.ribbon = ribbon;
    this.chosen = chosen;
    this.lines = { who: find("who"), facts: find("facts"), cast: find("where-to") };
    this.row = find("whose");
    this.select = find("it-is");
    this.back = find("take-back");
    find("next-fish").addEventListener("click", () => this.next());
    this.select.addEventListener("change", () => this.say(this.select.value || null));
    this.back.addEventListener("click", () => this.takeBack());
  }

  tell(casts) {
    const one = this.chosen();
    put(this.lines.who, one ? `${name(one.id)}: ${one.who}` : "");
    put(this.lines.facts, one ? [one.facts, this.ribbon.last(one.id)].filter(Boolean).join(" · ") : "");
    const { call } = this.page;
    const now = call && this.page.scene.lure !== "stowed" ? `${name(call.id)}: ${call.said}` : "";
    put(this.lines.cast, now || (casts.find((each) => each.id === one?.id)?.said ?? ""));
    this.row.hidden = !one && this.back.hidden;
    const said = one?.said ?? "";
    if (document.activeElement !== this.select && this.select.value !== said) this.select.value = said;
  }

  // The next fish to the right of the chosen one, round and round.
  next() {
    const fish = this.page.scene.tracks.filter((track) => track.kind === "fish").sort((a, b) => a.ahead_m - b.ahead_m || a.id - b.id);
    if (fish.length === 0) return;
    const at = fish.findIndex((track) => track.id === this.chosen()?.id);
    this.page.chosen = fish[(at + 1) % fish.length].id;
    this.page.again = true;
  }

  say(who) {
    const one = this.chosen();
    if (!one) return;
    this.send({ type: "who", track: one.id, who });
    this.said = one.id;
    this.back.hidden = who === null;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => (this.back.hidden = true), TAKE_BACK_MS);
  }

  takeBack() {
    this.send({ type: "who", track: this.said, who: null });
    this.back.hidden = true;
  }
}

// A line that does not change is left alone, so that it can be read out once.
function put(line, text) {
  if (line.textContent !== text) line.textContent = text;
}
