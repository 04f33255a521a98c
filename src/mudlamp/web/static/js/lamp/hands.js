// The angler's hands on the water: click throws, hold reels, double tap opens the bail, wheel or drag lifts the rod.

const TAP_MS = 240;
const DRAG_PX = 12;
const LIFT_M_PER_PX = 0.012;

export class Hands {
  // `place(event)` turns a pointer event into {ahead_m, across_m}; `lure()` tells what the lure is doing; a press that lasts on a mark
  // opens the loupe. Without a rod (a recording) there is only the loupe.
  constructor(surface, { send, place, lure, loupe, rod }) {
    this.loupe = loupe;
    this.rod = rod;
    this.send = send;
    this.place = place;
    this.lure = lure;
    this.down = null;
    this.tap = null;
    surface.addEventListener("pointerdown", (event) => this.press(surface, event));
    surface.addEventListener("pointermove", (event) => this.move(event));
    surface.addEventListener("pointerup", (event) => this.release(event));
    surface.addEventListener("pointercancel", () => this.stop());
    surface.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
  }

  press(surface, event) {
    if (event.button !== 0) return;
    surface.setPointerCapture(event.pointerId);
    const doing = this.lure();
    this.down = { y: event.clientY, lifted: 0, sinking: doing === "sinking", reeling: false, dragged: false };
    // A jig on an open bail stops at once, but not by a press that may be a look at a mark; any jig in the water is reeled if it lasts.
    this.down.stopsLate = this.down.sinking && Boolean(this.loupe?.near(event));
    if (this.down.sinking && !this.down.stopsLate) this.close();
    this.hold = setTimeout(() => {
      if (this.down && !this.down.dragged && this.loupe?.start(event)) {
        this.down.looking = true;
        return;
      }
      if (this.down && !this.down.dragged && this.rod && this.lure() !== "stowed") {
        this.down.reeling = true;
        this.send({ type: "reel", on: true });
      }
    }, TAP_MS);
  }

  // Closes the bail.
  close() {
    if (!this.rod) return;
    this.send({ type: "reel", on: true });
    this.send({ type: "reel", on: false });
  }

  move(event) {
    if (!this.down || this.down.reeling || this.down.looking || !this.rod) return;
    const by = this.down.y - event.clientY;
    if (Math.abs(by) < DRAG_PX && !this.down.dragged) return;
    this.down.dragged = true;
    const meters = by * LIFT_M_PER_PX - this.down.lifted;
    if (Math.abs(meters) > 0.05) {
      this.down.lifted += meters;
      this.send({ type: "lift", by_m: meters });
    }
  }

  release(event) {
    clearTimeout(this.hold);
    const down = this.down;
    this.down = null;
    if (!down) return;
    if (down.looking) {
      this.loupe.stop();
      return;
    }
    if (!this.rod) return;
    if (down.reeling) {
      this.send({ type: "reel", on: false });
      return;
    }
    if (down.stopsLate) this.close();
    if (down.dragged) return;
    if (this.tap) {
      clearTimeout(this.tap);
      this.tap = null;
      this.send({ type: "bail" });
      return;
    }
    const where = this.place(event);
    const sank = down.sinking;
    this.tap = setTimeout(() => {
      this.tap = null;
      // The press that stopped a sinking jig is not a throw.
      if (!sank && this.lure() !== "taken" && where) this.send({ type: "throw", ...where });
    }, TAP_MS);
  }

  stop() {
    clearTimeout(this.hold);
    if (this.down?.reeling) this.send({ type: "reel", on: false });
    if (this.down?.looking) this.loupe.stop();
    this.down = null;
  }

  wheel(event) {
    if (!this.rod) return;
    event.preventDefault();
    this.send({ type: "lift", by_m: event.deltaY < 0 ? 0.15 : -0.15 });
  }
}
