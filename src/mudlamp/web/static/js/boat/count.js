// Counts up from the splash: the whole surface shows it, and says by sound and by a buzz when the lure is there.

let late = 0.3; // so much later than the splash a thumb taps, until it was measured (ours) [s]
const COUNT = document.getElementById("pad-count");
let started = 0;
let wanted = 0;
let ticking = 0;
let sound;

export const lateBy = (seconds) => (late = seconds);
export const counting = () => started > 0;

export function stop() {
  started = 0;
  cancelAnimationFrame(ticking);
  COUNT.hidden = true;
}

// Offers to count to so many seconds; the next tap begins.
export function offer(seconds) {
  stop();
  wanted = seconds;
  COUNT.hidden = false;
  COUNT.dataset.there = "no";
  COUNT.classList.remove("running");
  COUNT.textContent = seconds > 0 ? `Tap at the splash: ${seconds}` : "Tap at the splash";
}

export function begin() {
  sound ??= new AudioContext();
  started = performance.now() - 1000 * late;
  COUNT.hidden = false;
  COUNT.dataset.there = "no";
  COUNT.classList.add("running");
  tick();
}

function tick() {
  const seconds = Math.floor((performance.now() - started) / 1000);
  if (COUNT.textContent !== String(seconds)) {
    COUNT.textContent = String(seconds);
    if (wanted > 0 && seconds === wanted) there();
  }
  if (started) ticking = requestAnimationFrame(tick);
}

function there() {
  COUNT.dataset.there = "yes";
  navigator.vibrate?.([200, 80, 200]);
  const tone = sound.createOscillator();
  tone.frequency.value = 880;
  tone.connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + 0.4);
}

COUNT.addEventListener("click", () => (started ? offer(wanted) : begin()));
