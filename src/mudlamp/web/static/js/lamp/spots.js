// Spots on the picture: a tap keeps one by bearing and distance; it is drawn again whenever the fan looks there.

import { toPage } from "./geometry.js";
import { LABEL_FONT } from "./marks.js";

// So long what was kept stands there to be named or taken back.
const SHOWN_MS = 20000;
const FLAG = [13, 9];

export class Spots {
  // `place(event, element, isPlan)` turns a pointer event into {ahead_m, across_m, depth_m}.
  constructor(find, { button, session, surfaces, place, line }) {
    this.button = button;
    this.session = session;
    this.line = line;
    this.row = find("spot-row");
    this.said = find("spot-said");
    this.kind = find("spot-kind");
    this.armed = false;
    button.addEventListener("click", () => this.arm(!this.armed));
    for (const [surface, isPlan] of surfaces) {
      // Before the hands on the rod get it.
      surface.addEventListener(
        "pointerdown",
        (event) => {
          if (!this.armed || event.button !== 0) return;
          event.stopImmediatePropagation();
          event.preventDefault();
          this.arm(false);
          const where = place(event, surface, isPlan);
          if (where) this.keep(where);
        },
        { capture: true },
      );
    }
    this.kind.addEventListener("change", () => this.name());
    find("spot-back").addEventListener("click", () => this.takeBack());
  }

  arm(on) {
    this.armed = on;
    this.button.setAttribute("aria-pressed", String(on));
    this.line(on ? "Tap the mark, in either picture." : "", 60000);
  }

  async keep(where) {
    const answer = await this.ask(`/api/v1/sessions/${this.session()}/spots`, "POST", where);
    if (!answer) return;
    this.key = answer.id;
    this.kind.value = "other";
    this.show(`Spot kept: ${answer.said}`);
  }

  async name() {
    const answer = await this.ask(`/api/v1/spots/${this.key}`, "PATCH", { kind: this.kind.value });
    if (answer) this.show(`Spot kept: ${answer.said}`);
  }

  async takeBack() {
    if (await this.ask(`/api/v1/spots/${this.key}`, "DELETE")) this.row.hidden = true;
  }

  show(said) {
    this.said.textContent = said;
    this.row.hidden = false;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => (this.row.hidden = true), SHOWN_MS);
  }

  // The answer's content; what is wrong stands in the line, and then there is none.
  async ask(address, method, body) {
    try {
      const answer = await fetch(address, { method, headers: body ? { "Content-Type": "application/json" } : {}, body: body && JSON.stringify(body) });
      const content = await answer.json();
      if (answer.ok) return content;
      this.line(content.error.message);
    } catch {
      this.line("No connection to Mud Lamp: the spot was not kept.");
    }
    return null;
  }
}

export function drawSpots(ctx, view, spots, tone) {
  for (const spot of spots) {
    const [x, at] = toPage(view, spot.ahead_m, view.flat ? spot.across_m : (spot.depth_m ?? 0));
    // One whose depth nobody knows hangs under the surface.
    const y = spot.depth_m === null && !view.flat ? at + 30 : at;
    flag(ctx, x, y, tone);
    ctx.font = LABEL_FONT;
    words(ctx, spot.words, x + FLAG[0] + 3, y - 14, tone);
  }
}

// From above: the flag, and how sure its side is.
export function drawSpotsFromAbove(ctx, view, spots, middle, across, tone) {
  for (const spot of spots) {
    const x = view.boatX + spot.ahead_m * view.scale;
    const y = middle + spot.across_m * across;
    ctx.strokeStyle = tone.ink;
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    ctx.moveTo(x, y - spot.doubt_m * across);
    ctx.lineTo(x, y + spot.doubt_m * across);
    ctx.stroke();
    flag(ctx, x, y, tone);
  }
}

function flag(ctx, x, y, tone) {
  ctx.strokeStyle = tone.ink;
  ctx.fillStyle = tone.paper;
  ctx.lineWidth = 2;
  ctx.lineJoin = "round";
  ctx.beginPath();
  ctx.moveTo(x, y);
  ctx.lineTo(x, y - 20);
  ctx.lineTo(x + FLAG[0], y - 20 + FLAG[1] / 2);
  ctx.lineTo(x, y - 20 + FLAG[1]);
  ctx.fill();
  ctx.stroke();
}

function words(ctx, text, x, y, tone) {
  ctx.textAlign = "left";
  ctx.lineWidth = 4;
  ctx.lineJoin = "round";
  ctx.strokeStyle = tone.paper;
  ctx.strokeText(text, x, y);
  ctx.fillStyle = tone.ink;
  ctx.fillText(text, x, y);
}
