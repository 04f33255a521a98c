// Show me: five short scenes of one tap each, a newcomer's first five minutes.

import { toPage } from "./geometry.js";
import { placeOf } from "./plane.js";

const NEAR_PX = 36;
const SEEN_KEY = "lamp_tour";
// What is no answer of a fish; and how long a cast sinks before somebody who knows how works the jig [ms].
const NO_ANSWERS = ["not_shown", "no_answer"];
const SINKS_MS = 5000;

// `page`: state, scene, chosen; `stage`: the first picture; `rail`, `bench`, `send`, `cast`: what a scene does by itself.
export class Tour {
  constructor(find, { page, stage, rail, bench, send, cast }) {
    Object.assign(this, { find, page, stage, rail, bench, send, cast });
    this.at = -1;
    this.root = find("tour");
    this.act = find("tour-act");
    this.act.addEventListener("click", () => this.scene?.act());
    find("tour-next").addEventListener("click", () => this.go(this.at + 1));
    find("tour-end").addEventListener("click", () => this.end());
    find("show-me").addEventListener("click", () => this.go(0));
    // A tap that answers a question is no cast.
    find("side").parentElement.addEventListener("pointerdown", (event) => this.tapped(event), true);
    if (localStorage.getItem(SEEN_KEY) === null) this.offer();
  }

  offer() {
    this.show("New here?", "Five short scenes, one tap each: what the dots are, what a setting hides, where the beam looks, what a fish does, your own set-up.", "");
    this.find("tour-next").textContent = "Show me";
  }

  show(title, text, act) {
    this.root.hidden = false;
    this.find("tour-title").textContent = title;
    this.find("tour-text").textContent = text;
    this.act.textContent = act;
    this.act.hidden = act === "";
  }

  say(text) {
    this.find("tour-text").textContent = text;
    this.act.hidden = true;
  }

  go(number) {
    this.scene?.leave();
    if (number >= this.scenes.length) {
      this.end();
      return;
    }
    localStorage.setItem(SEEN_KEY, "seen");
    this.at = number;
    this.root.dataset.scene = String(number + 1);
    this.find("tour-next").textContent = number + 1 < this.scenes.length ? "Next" : "Done";
    delete this.root.dataset.done;
    const { title, text, button } = this.scene;
    this.show(`${number + 1} of ${this.scenes.length}: ${title}`, text, button);
    this.scene.enter();
  }

  end() {
    this.scene?.leave();
    this.at = -1;
    localStorage.setItem(SEEN_KEY, "seen");
    delete this.root.dataset.scene;
    this.root.hidden = true;
  }

  get scene() {
    return this.scenes[this.at];
  }

  // Where the jig really is on the page: simulated water knows.
  jig() {
    const row = this.page.scene.truth.find((one) => one.kind === "lure");
    return row && toPage(this.stage.view, ...placeOf(this.page.state, row.range_m, row.angle_rad));
  }

  tapped(event) {
    if (!this.scene?.asks) return;
    event.stopPropagation();
    event.preventDefault();
    const box = this.find("side").getBoundingClientRect();
    const jig = this.jig();
    if (jig) this.reveal(Math.hypot(event.clientX - box.left - jig[0], event.clientY - box.top - jig[1]) < NEAR_PX ? "Right." : "Not that one.");
  }

  reveal(word) {
    this.scene.asks = false;
    this.bench.marks = "chosen";
    this.bench.mark();
    this.bench.shown();
    this.say(`${word} The lozenge is on it: small and steady, sinking or swinging on its line. Fish are larger, and move on their own.`);
    this.root.dataset.done = "jig";
  }

  // What a fish did, in words.
  reaction(token, said) {
    // The scripted angler's fish may answer before the newcomer has cast: that is not the answer waited for.
    if (this.at !== 3 || !this.thrown || this.root.dataset.done === "answer" || NO_ANSWERS.includes(token)) return;
    this.root.dataset.done = "answer";
    this.say(`${said}. Every answer gets its name, and a place in your log.`);
  }

  // Made once: each scene enters, acts on one tap, and leaves things as they were.
  scenes = [
    {
      title: "which dot is your jig?", text: "Somebody is fishing here. Tap the dot that is the jig.", button: "I can't tell",
      enter: () => {
        this.scenes[0].asks = true;
        this.send({ type: "show_me" });
        this.bench.marks = "none";
        this.bench.mark();
        this.bench.shown();
      },
      act: () => this.reveal("Look:"),
      leave: () => {
        this.scenes[0].asks = false;
        this.bench.marks = "chosen";
        this.bench.mark();
      },
    },
    {
      title: "clean is not seen", text: "A clean picture is easy to like. One tap cleans the second one, beside the first.", button: "Clean it",
      enter: () => this.send({ type: "twin", do: "on" }),
      act: () => {
        this.rail.setAll({ quieting_pings: 5, near_cut_db: 18, hide_below_db: 12 }, "b");
        this.root.dataset.done = "clean";
        this.say("B is clean, and what it cost stands in the table: the jig dims or is gone, and what moves comes late. A keeps it.");
      },
      leave: () => this.send({ type: "twin", do: "off" }),
    },
    {
      title: "off the beam", text: "The fan is thin. One tap swings the aim ten degrees.", button: "Swing the aim",
      enter: () => {
        this.aimed = this.page.state.controls.aim_deg;
      },
      act: () => {
        this.rail.setAll({ aim_deg: this.aimed > 0 ? this.aimed - 10 : this.aimed + 10 });
        this.root.dataset.done = "aim";
        this.say("The jig goes dark first, strong fish stay: the plan below shows them off the fan's middle. Turn your aim a hair each way until the jig is brightest.");
      },
      leave: () => this.rail.setAll({ aim_deg: this.aimed }),
    },
    {
      title: "what did it do?", text: "Cast past a fish and watch it: it rises, follows, refuses. Each answer is named as it happens.", button: "Cast at a fish",
      enter: () => {
        this.thrown = false;
      },
      act: () => {
        this.thrown = true;
        this.cast();
        this.sinking = setTimeout(() => this.send({ type: "show_me" }), SINKS_MS);
        this.say("Sinking beside it. Wait for its answer…");
      },
      leave: () => clearTimeout(this.sinking),
    },
    {
      title: "your water", text: "Type your depth and clarity: the card says where to start, in what order, and what each setting costs there.", button: "Make my card",
      enter: () => {},
      act: () => {
        localStorage.setItem(SEEN_KEY, "seen");
        window.location.assign("/tune");
      },
      leave: () => {},
    },
  ];
}
