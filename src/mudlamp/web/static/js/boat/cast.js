// Cast: the rod in hand, its counts, the pad, and what the fish did.

import { begin, counting, offer, stop } from "./count.js";
import { change, read, write } from "./keep.js";
import { note } from "./queue.js";
import { speak } from "../shared/speak.js";

const UNDO_S = 10;
const HOUR_MS = 3600000;
const $ = (id) => document.getElementById(id);
let pack = null;
let rods = [];
let inHand = null;
let lastFish = {};
let undoing = 0;
let pad = null;
// Which wind: 0 a calm, else the place of the pack's.
let wind = 0;

export const rodInHand = () => inHand;
export const everyRod = () => rods;
export const lureOf = (rod) => pack.lures.find((lure) => lure.id === rod.lure) ?? pack.lures[0];
// The rows that hold: those of the wind that was tapped, where the lure has some.
const tableOf = (lure) => lure.windy?.[wind - 1]?.table ?? lure.table;
const said = (rod) => ({ rod: rod.id, rod_name: rod.name, lure: lureOf(rod).name });

export function swatch(color) {
  const svg = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  svg.setAttribute("viewBox", "0 0 24 12");
  svg.setAttribute("class", "chip-swatch");
  const shape = document.createElementNS(svg.namespaceURI, "rect");
  Object.entries({ x: 1, y: 1, width: 22, height: 10, rx: 5, fill: color || "none", stroke: "currentColor" }).forEach(([name, value]) => shape.setAttribute(name, value));
  svg.append(shape);
  return svg;
}

export function chip(words, pressed, press, color) {
  const button = document.createElement("button");
  button.type = "button";
  button.setAttribute("aria-pressed", String(pressed));
  if (color !== undefined) button.append(swatch(color));
  button.append(words);
  button.addEventListener("click", press);
  return button;
}

// A pack that is taken along anew keeps what is tied on, where it knows it.
export async function showCast(given) {
  pack = given;
  const tied = (await read("tied")) ?? {};
  rods = pack.rods.map((rod) => ({ ...rod, lure: pack.lures.some((lure) => lure.id === tied[rod.id]) ? tied[rod.id] : rod.lure }));
  const hand = await read("hand");
  wind = (await read("wind")) ?? 0;
  inHand = rods.find((rod) => rod.id === hand) ?? rods.find((rod) => rod.in_hand) ?? rods[0];
  showRods();
  showOutcomes(pack.outcomes);
}

function showRods() {
  $("rods").replaceChildren(...rods.map((rod) => chip(lureOf(rod).name, rod === inHand, () => take(rod), lureOf(rod).swatch)));
  showWind();
  const rows = tableOf(lureOf(inHand)).big.map((row) => {
    const line = document.createElement("tr");
    if (row.usual) line.className = "usual";
    [`${row.depth_ft} ft`, `${row.past_ft} ft`, row.count].forEach((text) => line.insertCell().append(String(text)));
    return line;
  });
  $("counts").tBodies[0].replaceChildren(...rows);
}

function showWind() {
  const windy = lureOf(inHand).windy ?? [];
  const label = windy[wind - 1]?.label ?? "calm";
  $("wind").hidden = !windy.length;
  $("wind").textContent = label;
  $("wind").setAttribute("aria-label", `The wind: ${label}. Tap to change it`);
}

async function take(rod) {
  inHand = rod;
  await write("hand", rod.id);
  showRods();
}

export async function tie(lure) {
  inHand.lure = lure.id;
  await change("tied", (before) => ({ ...before, [inHand.id]: lure.id }));
  await note("tied", said(inHand), { text: `Tied on: ${lure.name}`, rod: "" });
  showRods();
}

function showOutcomes(outcomes) {
  const buttons = outcomes.map(({ token, label }) => {
    const button = document.createElement("button");
    button.type = "button";
    button.className = token === "bit" ? "big good" : "big";
    button.dataset.outcome = token;
    button.textContent = label;
    button.addEventListener("click", () => outcome(token, label));
    return button;
  });
  $("outcomes").replaceChildren(...buttons);
}

async function outcome(token, label) {
  const rod = inHand;
  const id = await note("outcome", { token, ...said(rod), ...lastFish }, { text: label, rod: lureOf(rod).name, token });
  const follows = { bit: pack.after_bite, hooked: pack.after_hooked ?? [] }[token] ?? [];
  showOutcomes(follows.length ? follows : pack.outcomes);
  // What was tapped was for this cast: the next may be to another fish. What follows a bite is of the same.
  if (!follows.length) lastFish = {};
  offerUndo(id, `${label}, ${lureOf(rod).name}`);
  await askRecording();
}

function offerUndo(id, text) {
  clearInterval(undoing);
  let left = UNDO_S;
  $("undo-text").textContent = text;
  $("undo").textContent = `Undo ${left}`;
  $("undo").onclick = () => undo(id);
  $("undo-bar").hidden = false;
  undoing = setInterval(() => {
    left -= 1;
    $("undo").textContent = `Undo ${left}`;
    if (left <= 0) closeUndo();
  }, 1000);
}

function closeUndo() {
  clearInterval(undoing);
  $("undo-bar").hidden = true;
}

async function undo(id) {
  closeUndo();
  await note("undo", { of: id });
  await change("acts", (acts) => (acts ?? []).map((act) => (act.id === id ? { ...act, undone: true } : act)));
  showOutcomes(pack.outcomes);
}

export function undoLast() {
  if (!$("undo-bar").hidden) $("undo").click();
}

// At the first cast and every hour: does the unit record?
async function askRecording() {
  const asked = await read("asked");
  if (asked && Date.now() - asked < HOUR_MS) return;
  await write("asked", Date.now());
  $("asking-text").textContent = pack.recording;
  $("asking").hidden = false;
  const answer = (on) => async () => {
    $("asking").hidden = true;
    await note("recording", { on }, { text: on ? "Recording on" : "Not recording", rod: "" });
  };
  [$("asking-yes").onclick, $("asking-no").onclick] = [answer(true), answer(false)];
}

// The pad: the same Reach and depth as the angler's own screen; left is the boat.
const [WIDE, HIGH, EDGE] = [360, 480, 26];

export function openPad() {
  const grid = $("pad-grid");
  const lines = [];
  const line = (x1, y1, x2, y2) => lines.push(make("line", { x1, y1, x2, y2, class: "pad-line" }));
  const text = (x, y, words, anchor) => lines.push(make("text", { x, y, "text-anchor": anchor, class: "pad-text" }, words));
  const step = (most) => [2, 5, 10, 20, 25].find((size) => most / size <= 6) ?? 50;
  for (let at = step(pad.reach); at <= pad.reach; at += step(pad.reach)) {
    line(x(at), 0, x(at), HIGH);
    text(Math.min(x(at), WIDE - 14), 18, `${at}`, "middle");
  }
  for (let at = step(pad.down); at <= pad.down; at += step(pad.down)) {
    line(0, y(at), WIDE, y(at));
    text(4, Math.min(y(at) - 4, HIGH - 4), `${at}`, "start");
  }
  grid.replaceChildren(...lines);
  $("pad").hidden = false;
  $("pad-said").textContent = "Tap where the fish stands on your screen.";
  stop();
  grid.focus();
}

const x = (ft) => EDGE + ((WIDE - EDGE) * ft) / pad.reach;
const y = (ft) => (HIGH * ft) / pad.down;

function make(name, attributes, words = "") {
  const found = document.createElementNS("http://www.w3.org/2000/svg", name);
  Object.entries(attributes).forEach(([key, value]) => found.setAttribute(key, value));
  found.textContent = words;
  return found;
}

// What the pad's edges are: the windows that are set now.
export const usePad = (reach, down) => (pad = { reach, down });

function tapped(event) {
  const box = $("pad-grid").getBoundingClientRect();
  const out = Math.round(((((event.clientX - box.left) / box.width) * WIDE - EDGE) / (WIDE - EDGE)) * pad.reach);
  const deep = Math.round(((event.clientY - box.top) / box.height) * pad.down);
  answerFor(out, deep);
}

function answerFor(out, deep) {
  const table = tableOf(lureOf(inHand));
  const last = table.rows.length / pack.cast_depths - 1;
  const column = Math.min(Math.max(out - pack.cast_from_ft, 0), last);
  const row = Math.min(Math.max(deep - pack.cast_depth_from_ft, 0), pack.cast_depths - 1);
  const at = column * pack.cast_depths + row;
  lastFish = { depth_ft: row + pack.cast_depth_from_ft, out_ft: column + pack.cast_from_ft };
  const words = table.rows[at] < 0 ? "No cast reaches there." : table.said[table.rows[at]];
  $("pad-said").textContent = `${words} (${lastFish.out_ft} ft out, ${lastFish.depth_ft} down)`;
  $("pad-trouble").textContent = speak(words);
  offer(Math.max(table.counts[at], 0));
}

export function closePad() {
  stop();
  $("pad").hidden = true;
  $("open-pad").focus();
}

// A foot switch begins the count, whatever is shown: with no fish tapped, a bare one.
export function footCount() {
  if ($("pad").hidden) {
    openPad();
    offer(0);
  }
  if (counting()) offer(0);
  else begin();
}

$("wind").addEventListener("click", async () => {
  wind = (wind + 1) % ((lureOf(inHand).windy ?? []).length + 1);
  await write("wind", wind);
  showRods();
});
$("open-pad").addEventListener("click", openPad);
$("pad-grid").addEventListener("pointerdown", tapped);
$("pad-back").addEventListener("click", closePad);
