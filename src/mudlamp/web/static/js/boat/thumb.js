// How late this thumb is: between what the eye sees and the tap, measured five times; the count takes it off.

import { lateBy } from "./count.js";
import { read, write } from "./keep.js";

const [TIMES, SHORTEST_MS, LONGEST_MS, TOO_SOON_MS] = [5, 800, 2400, 90];
const BUTTON = document.getElementById("thumb");
const SAID = document.getElementById("thumb-said");
let shown = 0;
let waiting = 0;
let late = [];

const say = (seconds) => (SAID.textContent = `Your thumb is ${seconds.toFixed(2)} s late: the count takes that off.`);

function next() {
  BUTTON.classList.remove("strong");
  BUTTON.textContent = `Wait… ${late.length + 1} of ${TIMES}`;
  waiting = setTimeout(
    () => {
      shown = performance.now();
      BUTTON.classList.add("strong");
      BUTTON.textContent = "Splash! Tap";
    },
    SHORTEST_MS + Math.random() * (LONGEST_MS - SHORTEST_MS),
  );
}

async function tap() {
  if (shown) {
    const delay = performance.now() - shown;
    shown = 0;
    // Nobody is that quick: it was tapped before it was seen.
    if (delay > TOO_SOON_MS) late.push(delay / 1000);
  } else clearTimeout(waiting);
  if (late.length < TIMES) return next();
  const middle = late.sort((a, b) => a - b)[Math.floor(TIMES / 2)];
  late = [];
  BUTTON.classList.remove("strong");
  BUTTON.textContent = "Measure it again";
  await write("thumb", middle);
  lateBy(middle);
  return say(middle);
}

export async function useThumb() {
  const kept = await read("thumb");
  if (kept) {
    lateBy(kept);
    say(kept);
  }
  BUTTON.addEventListener("pointerdown", tap);
}
