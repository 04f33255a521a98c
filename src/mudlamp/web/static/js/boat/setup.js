// Set-up: the move first; under it only what changes, read off the pack's rows.

import { chip, usePad } from "./cast.js";
import { read, write } from "./keep.js";
import { note } from "./queue.js";
import { speak } from "../shared/speak.js";

const $ = (id) => document.getElementById(id);
let pack = null;
let there = null;
let running = null;

const titled = (word) => word[0].toUpperCase() + word.slice(1);
const rowAt = ({ depth, clarity, sky }) => {
  const { clarities, skies, rows } = pack.retune;
  return rows[(depth * clarities.length + clarity) * skies.length + sky];
};

export async function showSetup(given) {
  pack = given;
  const { depths_ft, clarities, skies } = pack.retune;
  const home = { depth: depths_ft.indexOf(pack.here.depth_ft), clarity: clarities.indexOf(pack.here.clarity), sky: skies.indexOf(pack.here.sky) };
  const kept = await read("running");
  // Another pack begins where its own card is.
  running = kept?.pack === pack.made_at ? kept.row : home;
  there = { ...running };
  $("depths").replaceChildren(...depths_ft.map((ft, at) => chip(`${ft}`, false, () => move({ depth: at }))));
  $("whole").replaceChildren(...pack.card.flatMap((line) => [text("dt", line.label), text("dd", line.shown)]));
  $("good-enough").textContent = pack.good_enough;
  show();
}

function text(name, words) {
  const found = document.createElement(name);
  found.textContent = words;
  return found;
}

function move(how) {
  there = { ...there, ...how };
  there.depth = Math.min(Math.max(there.depth, 0), pack.retune.depths_ft.length - 1);
  $("depths").hidden = true;
  $("depth").setAttribute("aria-expanded", "false");
  show();
}

// What differs between the row that is set and the row that is asked for, in the card's order: windows first.
function changed() {
  const [now, then] = [rowAt(there), rowAt(running)];
  return pack.retune.controls.flatMap((control, at) => (now[at] === then[at] ? [] : [{ control, word: control.words[now[at]] }]));
}

const aloud = (changes) => (changes.length ? [...changes.map((one) => one.word.aloud), "Leave the rest."].join(" ") : "Leave everything alone.");

function show() {
  const { depths_ft, clarities, skies, controls } = pack.retune;
  $("depth").textContent = `${depths_ft[there.depth]} ft`;
  $("clarities").replaceChildren(...clarities.map((word, at) => chip(titled(word), at === there.clarity, () => move({ clarity: at }))));
  $("skies").replaceChildren(...skies.map((word, at) => chip(titled(word), at === there.sky, () => move({ sky: at }))));
  const changes = changed();
  $("changes").replaceChildren(
    ...(changes.length
      ? changes.map(({ control, word }) => {
          const line = text("span", `${control.label} `);
          line.append(text("b", word.shown));
          return line;
        })
      : [text("span", "Leave everything alone.")]),
  );
  $("boat-where").textContent = `${depths_ft[running.depth]} ft, ${clarities[running.clarity]} · pack of ${new Date(pack.made_at).toLocaleTimeString([], { hour: "numeric", minute: "2-digit" })}`;
  const shown = (name) => parseFloat(controls.find((one) => one.name === name).words[rowAt(running)[controls.findIndex((one) => one.name === name)]].shown);
  usePad(shown("reach_m"), shown("down_to_m"));
}

async function setIt() {
  const { depths_ft, clarities, skies } = pack.retune;
  running = { ...there };
  await write("running", { pack: pack.made_at, row: running });
  const values = { depth_ft: depths_ft[running.depth], clarity: clarities[running.clarity], sky: skies[running.sky] };
  await note("move", values, { text: `Moved: ${values.depth_ft} ft, ${values.clarity}`, rod: "", moved: true });
  $("stay-said").textContent = "";
  show();
}

// Stay or move: takes since the last move, in the minutes since then, and whether fish are seen: the pack's row.
async function stay(sees) {
  const table = pack.stay;
  if (!table) return ($("stay-said").textContent = "Make the pack anew: this one does not say.");
  const acts = ((await read("acts")) ?? []).filter((act) => !act.undone);
  const here = acts.slice(acts.findLastIndex((act) => act.moved) + 1);
  const since = acts.findLast((act) => act.moved) ?? here[0];
  const minutes = since ? (Date.now() - new Date(since.at)) / 60000 : 0;
  const takes = Math.min(here.filter((act) => act.token === "bit").length, table.most_takes);
  const row = Math.floor(Math.min(minutes, table.most_min) / table.step_min);
  const words = table.said[((sees ? 0 : 1) * (table.most_min / table.step_min + 1) + row) * (table.most_takes + 1) + takes];
  $("stay-said").textContent = words;
  $("speech").textContent = speak(words.split(":")[0]);
}

$("seeing").addEventListener("click", () => stay(true));
$("not-seeing").addEventListener("click", () => stay(false));
$("shallower").addEventListener("click", () => move({ depth: there.depth - 1 }));
$("deeper").addEventListener("click", () => move({ depth: there.depth + 1 }));
$("depth").addEventListener("click", () => {
  $("depths").hidden = !$("depths").hidden;
  $("depth").setAttribute("aria-expanded", String(!$("depths").hidden));
});
$("set-it").addEventListener("click", setIt);
$("say-it").addEventListener("click", () => ($("speech").textContent = speak(aloud(changed()))));
