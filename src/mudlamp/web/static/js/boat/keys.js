// A foot switch or a page turner is a keyboard: its keys can be taught what to do.

import { change, read } from "./keep.js";

const $ = (id) => document.getElementById(id);
const ACTIONS = { count: "Begin the count", pad: "Open the pad", say: "Say the set-up", undo: "Undo" };
let known = { PageDown: "count" };
let learning = "";

export async function useKeys(does) {
  known = (await read("keys")) ?? known;
  $("teach").replaceChildren(
    ...Object.entries(ACTIONS).map(([action, words]) => {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "big";
      button.textContent = words;
      button.addEventListener("click", () => {
        learning = action;
        $("taught").textContent = `Now press the switch for: ${words}.`;
      });
      return button;
    }),
  );
  addEventListener("keydown", async (event) => {
    if (event.repeat || event.target.matches("input")) return;
    if (learning) {
      event.preventDefault();
      const action = learning;
      learning = "";
      await change("keys", (before) => ({ ...(before ?? known), [event.key]: action }));
      known = await read("keys");
      $("taught").textContent = `${event.key}: ${ACTIONS[action]}.`;
    } else if (known[event.key]) {
      event.preventDefault();
      does[known[event.key]]();
    }
  });
}
