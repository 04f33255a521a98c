// The rail: sliders and steps send their value at once; what the session says is what they show.

// A slider of few steps counts them; its values are theirs.
const stepsOf = (input) => input.dataset.steps.split(" ");

export class Rail {
  constructor(root, send) {
    this.root = root;
    this.send = send;
    this.seq = 0;
    this.side = "a";
    this.touched = new Map(); // control name -> when it was last moved by hand
    root.addEventListener("input", (event) => this.moved(event.target));
  }

  moved(input) {
    if (!input.name || input.name === "which-side") return;
    const text = input.dataset.steps ? stepsOf(input)[input.value] : input.value;
    const value = input.type === "range" || !Number.isNaN(Number(text)) ? Number(text) : text;
    this.show(input.name, value);
    this.set(input.name, value);
  }

  set(name, value) {
    this.seq += 1;
    this.touched.set(name, performance.now());
    for (const radio of this.root.querySelectorAll(`input[type=radio][name=${name}]`)) radio.checked = radio.value === String(value);
    this.send({ type: "set", side: this.side, seq: this.seq, values: { [name]: value } }, this.seq);
  }

  // A whole set-up: what it says shows at once, also of a control just moved by hand.
  setAll(values, side = this.side) {
    this.seq += 1;
    for (const name of Object.keys(values)) this.touched.delete(name);
    this.send({ type: "set", side, seq: this.seq, values }, this.seq);
  }

  nudge(name, by) {
    const input = this.root.querySelector(`input[type=range][name=${name}]`);
    input.value = Number(input.value) + by;
    this.moved(input);
  }

  show(name, value) {
    const output = this.root.querySelector(`[data-value="${name}"] b`);
    if (!output) return;
    const { zero } = output.dataset;
    output.textContent = value === 0 ? zero : String(Math.round(value * 10) / 10);
    // "off" has no unit.
    output.nextElementSibling.hidden = value === 0 && zero !== "0";
    const stepped = this.root.querySelector(`input[name=${name}][data-steps]`);
    stepped?.setAttribute("aria-valuetext", output.parentElement.textContent.trim());
  }

  // Show the session's set-up; a control under the hand is left alone for a moment.
  take(controls) {
    for (const [name, value] of Object.entries(controls)) {
      if (performance.now() - (this.touched.get(name) ?? -1e9) < 600) continue;
      const slider = this.root.querySelector(`input[type=range][name=${name}]`);
      if (slider) {
        slider.value = slider.dataset.steps ? stepsOf(slider).indexOf(String(value)) : value;
        this.show(name, value);
      }
      for (const radio of this.root.querySelectorAll(`input[type=radio][name=${name}]`)) radio.checked = radio.value === String(value);
    }
  }
}
