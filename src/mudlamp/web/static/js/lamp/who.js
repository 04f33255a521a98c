// The chosen fish: who it is thought to be, what was measured of it, what it did; and what the angler says it is.

import { isHidden, name } from "./marks.js";

// Whether lengths are hidden until they were guessed, on this device.
const FIRST = "lamp-guess-first";
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
    this.guess = find("guess");
    const first = find("guess-first");
    first.checked = page.guessFirst = localStorage.getItem(FIRST) === "yes";
    first.addEventListener("change", () => {
      localStorage.setItem(FIRST, first.checked ? "yes" : "no");
      this.page.guessFirst = first.checked;
      this.page.again = true;
    });
    // The fish stays the chosen one while its length is typed.
    this.guess.addEventListener("focus", () => (this.page.chosen = this.chosen()?.id));
    this.guess.addEventListener("change", () => this.sayGuess());
    find("next-fish").addEventListener("click", () => this.next());
    this.select.addEventListener("change", () => this.say(this.select.value || null));
    this.back.addEventListener("click", () => this.takeBack());
  }

  tell(casts) {
    const one = this.chosen();
    put(this.lines.who, one ? `${name(one.id)}: ${one.who}` : "");
    put(this.lines.facts, one ? [sizeOf(one, this.page), this.guessed(one), one.facts, this.ribbon.last(one.id)].filter(Boolean).join(" · ") : "");
    if (one?.id !== this.shown) this.guess.value = one?.guess_in ?? "";
    this.shown = one?.id;
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

  // Of a fish that was guessed also how all guesses run.
  guessed(one) {
    return one.guess && [one.guess, this.page.scene.guessing].filter(Boolean).join("; ");
  }

  sayGuess() {
    const one = this.chosen();
    if (one && this.guess.value !== "" && this.guess.reportValidity()) this.send({ type: "guess", track: one.id, length_in: Number(this.guess.value) });
  }

  takeBack() {
    this.send({ type: "who", track: this.said, who: null });
    this.back.hidden = true;
  }
}

function sizeOf(one, page) {
  return isHidden(one, page.guessFirst) ? "How long? Guess first" : one.size;
}

// A line that does not change is left alone, so that it can be read out once.
function put(line, text) {
  if (line.textContent !== text) line.textContent = text;
}
