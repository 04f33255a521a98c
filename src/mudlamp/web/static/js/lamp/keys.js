// The keyboard.

import { switchTheme } from "../shared/theme.js";

export function mountKeys({ send, rail, throwAtFish, toggleHelp, bench, who, spots }) {
  let reeling = false;
  document.addEventListener("keydown", (event) => {
    if (event.target.matches("input:not([type=radio], [type=range], [type=checkbox]), select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
    const act = {
      ArrowUp: () => send({ type: "lift", by_m: 0.25 }),
      ArrowDown: () => send({ type: "lift", by_m: -0.25 }),
      " ": () => send({ type: "bail" }),
      r: () => !event.repeat && ((reeling = true), send({ type: "reel", on: true })),
      t: () => throwAtFish(),
      n: () => switchTheme(),
      f: () => bench.setPace("frozen"),
      g: () => bench.setPace("step"),
      l: () => bench.setPace("replay"),
      c: () => who.next(),
      j: () => who.say("lure"),
      s: () => spots.arm(!spots.armed),
      m: () => bench.toggle("marks"),
      "?": () => toggleHelp(),
      "[": () => rail.nudge("gain", -1),
      "]": () => rail.nudge("gain", 1),
      ",": () => rail.nudge("reach_ft", -2),
      ".": () => rail.nudge("reach_ft", 2),
    }[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    if (!act || (event.key === " " && event.target.matches("button, summary, a"))) return;
    // Arrows belong to the focused control, Space to a checkbox.
    if (event.target.matches("input") && (event.key.startsWith("Arrow") || event.key === " ")) return;
    event.preventDefault();
    act();
  });
  const stop = () => reeling && ((reeling = false), send({ type: "reel", on: false }));
  document.addEventListener("keyup", (event) => event.key.toLowerCase() === "r" && stop());
  window.addEventListener("blur", stop);
}
