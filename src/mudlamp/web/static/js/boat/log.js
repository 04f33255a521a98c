// Log: what was done today, given another rod where that was wrong, and how the queue stands.

import { chip, everyRod, lureOf, rodInHand, tie } from "./cast.js";
import { change, read, waiting } from "./keep.js";
import { asFile, note, send, state } from "./queue.js";

const MOST = 10;
const $ = (id) => document.getElementById(id);

export async function showLog(pack) {
  const acts = ((await read("acts")) ?? []).filter((act) => !act.undone).slice(-30).reverse();
  const left = new Set((await waiting()).map((one) => one.id));
  $("acts").replaceChildren(...acts.map((act, at) => line(act, left.has(act.id), at < MOST && Boolean(act.rod))));
  $("reassign").replaceChildren(...everyRod().map((rod) => chip(lureOf(rod).name, false, () => reassign(rod, pack), lureOf(rod).swatch)));
  $("lures").replaceChildren(
    ...pack.lures.map((lure) => chip(lure.name, lure.id === rodInHand().lure, () => tie(lure).then(() => showLog(pack)), lure.swatch)),
  );
}

function line(act, isWaiting, canChange) {
  const item = document.createElement("li");
  const label = document.createElement("label");
  if (canChange) {
    const box = document.createElement("input");
    box.type = "checkbox";
    box.value = act.id;
    label.append(box);
  }
  const at = new Date(act.at).toLocaleTimeString([], { hour: "numeric", minute: "2-digit" });
  const words = document.createElement("span");
  words.textContent = [at, act.text, act.rod].filter(Boolean).join(" · ");
  const mark = document.createElement("small");
  mark.textContent = isWaiting ? "waiting" : "sent";
  label.append(words, mark);
  item.append(label);
  return item;
}

async function reassign(rod, pack) {
  const of = [...$("acts").querySelectorAll("input:checked")].map((box) => box.value);
  if (!of.length) return;
  await note("rod", { of, rod: rod.id, rod_name: rod.name, lure: lureOf(rod).name });
  await change("acts", (acts) => acts.map((act) => (of.includes(act.id) ? { ...act, rod: lureOf(rod).name } : act)));
  await showLog(pack);
}

$("send-now").addEventListener("click", async () => {
  await send();
  await state();
});
$("save-file").addEventListener("click", asFile);
