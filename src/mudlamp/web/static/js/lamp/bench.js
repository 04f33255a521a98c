// The bench: time (freeze, one ping, slow, the last minute), the twin picture, the truth, their unit's screen, keeping the minute.

const SCREEN_KEY = "lamp-unit-screen";

export class Bench {
  // `shown` is told whenever something changes what is drawn.
  constructor(root, { send, keep, shown }) {
    this.root = root;
    this.send = send;
    this.pace = "run";
    this.twin = false;
    this.truth = false;
    this.stretched = false;
    this.screen = this.remembered();
    this.shown = shown;
    this.tape = document.getElementById("tape");
    root.addEventListener("click", (event) => {
      const button = event.target.closest("button");
      if (button?.dataset.pace) this.setPace(button.dataset.pace);
      else if (button?.dataset.bench === "keep") keep();
      else if (button?.dataset.bench) this.toggle(button.dataset.bench);
    });
    this.tape.addEventListener("input", () => send({ type: "pace", pace: "replay", share: this.tape.value / 1000 }));
    this.mountUnit();
  }

  setPace(pace) {
    // The same button again runs on.
    this.send({ type: "pace", pace: pace !== "step" && pace === this.pace ? "run" : pace });
  }

  toggle(what) {
    if (what === "twin") this.send({ type: "twin", do: this.twin ? "off" : "on" });
    if (what === "truth") this.truth = !this.truth;
    if (what === "screen") this.stretched ? (this.stretched = false) : document.getElementById("unit").showModal();
    this.mark();
    this.shown();
  }

  take(state) {
    this.pace = state.pace;
    this.twin = state.panes.length === 2;
    this.tape.hidden = this.pace !== "replay";
    this.mark();
  }

  place(message) {
    if (document.activeElement !== this.tape || !this.tape.matches(":active")) this.tape.value = String(Math.round(message.share * 1000));
  }

  mark() {
    const on = { twin: this.twin, truth: this.truth, screen: this.stretched };
    for (const button of this.root.querySelectorAll("button[aria-pressed]")) {
      const pressed = button.dataset.pace ? button.dataset.pace === this.pace : on[button.dataset.bench];
      button.setAttribute("aria-pressed", String(Boolean(pressed)));
    }
  }

  // Their unit's screen: measured once, remembered by this browser, judged by the session.
  remembered() {
    try {
      return JSON.parse(localStorage.getItem(SCREEN_KEY));
    } catch {
      return null;
    }
  }

  mountUnit() {
    const dialog = document.getElementById("unit");
    const fields = [...dialog.querySelectorAll("input")];
    for (const field of fields) if (this.screen?.[field.name]) field.value = this.screen[field.name];
    dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
    document.getElementById("unit-apply").addEventListener("click", () => {
      const wrong = fields.find((field) => !field.checkValidity());
      if (wrong) {
        wrong.reportValidity();
        return;
      }
      this.screen = Object.fromEntries(fields.map((field) => [field.name, Number(field.value)]));
      localStorage.setItem(SCREEN_KEY, JSON.stringify(this.screen));
      this.stretched = true;
      this.tellScreen();
      this.mark();
      dialog.close();
      this.shown();
    });
  }

  tellScreen() {
    if (this.screen) this.send({ type: "screen", ...this.screen });
  }
}
