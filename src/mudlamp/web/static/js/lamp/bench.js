// The bench: time (freeze, step, slow, the last minute), the twin picture, the truth, your unit's screen, saving the last minute.

// What is marked, in the order that its button goes through.
const MARKS = ["chosen", "all", "none"];
const MARKS_WORDS = { chosen: "Marks: one fish", all: "Marks: all", none: "Marks: none" };

export class Bench {
  // `shown` is called whenever something changes what is drawn.
  constructor(root, { send, save, shown }) {
    this.root = root;
    this.send = send;
    this.pace = "run";
    this.twin = false;
    this.truth = false;
    this.stretched = false;
    this.sampled = false;
    this.marks = "chosen";
    this.shown = shown;
    this.tape = document.getElementById("tape");
    this.ticks = document.getElementById("tape-ticks");
    root.addEventListener("click", (event) => {
      const button = event.target.closest("button");
      if (button?.dataset.pace) this.setPace(button.dataset.pace);
      else if (button?.dataset.bench === "save") save();
      else if (button?.dataset.bench) this.toggle(button.dataset.bench);
    });
    this.tape.addEventListener("input", () => send({ type: "pace", pace: "replay", share: this.tape.value / 1000 }));
  }

  setPace(pace) {
    // The same button again resumes.
    this.send({ type: "pace", pace: pace !== "step" && pace === this.pace ? "run" : pace });
  }

  toggle(what) {
    if (what === "twin") this.send({ type: "twin", do: this.twin ? "off" : "on" });
    if (what === "truth") this.truth = !this.truth;
    if (what === "screen") this.stretched = !this.stretched;
    if (what === "sampled") this.sampled = !this.sampled;
    if (what === "marks") this.marks = MARKS[(MARKS.indexOf(this.marks) + 1) % MARKS.length];
    this.mark();
    this.shown();
  }

  take(state) {
    this.pace = state.pace;
    this.twin = state.panes.length === 2;
    this.tape.hidden = this.pace !== "replay";
    this.ticks.toggleAttribute("hidden", this.tape.hidden);
    this.mark();
  }

  place(message) {
    this.tick(message.acted);
    if (document.activeElement !== this.tape || !this.tape.matches(":active")) this.tape.value = String(Math.round(message.share * 1000));
  }

  // Where in the last minute fish did something.
  tick(shares) {
    const said = shares.join(" ");
    if (this.ticked === said) return;
    this.ticked = said;
    const lines = shares.map((share) => {
      const line = document.createElementNS("http://www.w3.org/2000/svg", "line");
      Object.entries({ x1: 1000 * share, x2: 1000 * share, y1: 0, y2: 10 }).forEach(([name, value]) => line.setAttribute(name, value));
      return line;
    });
    this.ticks.replaceChildren(...lines);
  }

  mark() {
    this.root.querySelector("[data-bench=marks]").textContent = MARKS_WORDS[this.marks];
    const on = { twin: this.twin, truth: this.truth, screen: this.stretched, sampled: this.sampled };
    for (const button of this.root.querySelectorAll("button[aria-pressed]")) {
      if (!button.dataset.pace && !button.dataset.bench) continue;
      const pressed = button.dataset.pace ? button.dataset.pace === this.pace : on[button.dataset.bench];
      button.setAttribute("aria-pressed", String(Boolean(pressed)));
    }
  }
}
