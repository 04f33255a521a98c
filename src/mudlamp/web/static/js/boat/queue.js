// Acts wait here until the house has them: sent in order, taken away only when it says that it keeps them, sent again as often as it takes.

import { append, change, drop, read, waiting } from "./keep.js";

const PATH = "/api/v1/boat/entries";
const AT_ONCE = 200;
const [SOON_MS, LATER_MS] = [4000, 60000];
let wait = SOON_MS;
let timer = 0;
let sending = null;
let tell = () => {};

export const onState = (listener) => (tell = listener);

// Without https a browser makes no keys by itself.
function key() {
  if (crypto.randomUUID) return crypto.randomUUID();
  const hex = [...crypto.getRandomValues(new Uint8Array(16))].map((byte, at) => (at === 6 ? (byte & 15) | 64 : at === 8 ? (byte & 63) | 128 : byte).toString(16).padStart(2, "0")).join("");
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");
}

export async function note(kind, values, shown) {
  const entry = { id: key(), at: new Date().toISOString(), kind, values };
  await append(entry, shown);
  await state();
  send();
  return entry.id;
}

export async function state(trouble = "") {
  const [left, refused] = [await waiting(), (await read("refused")) ?? []];
  tell({ left: left.length, refused: refused.length, trouble });
  return left;
}

export function send() {
  sending ??= sendAll().finally(() => (sending = null));
  return sending;
}

async function sendAll() {
  clearTimeout(timer);
  let left = await state();
  while (left.length) {
    const entries = left.slice(0, AT_ONCE).map(({ id, number, at, kind, values }) => ({ id, number, at, kind, values }));
    let receipt;
    try {
      const answer = await fetch(PATH, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ sent_at: new Date().toISOString(), entries }),
      });
      if (!answer.ok) throw new Error(answer.status === 403 ? "pair this device anew" : answer.status < 500 ? `refused (${answer.status})` : "the house is busy");
      receipt = await answer.json();
    } catch (error) {
      await state(error instanceof TypeError ? "no link" : error.message);
      timer = setTimeout(send, wait);
      wait = Math.min(2 * wait, LATER_MS);
      return;
    }
    const over = new Set([...receipt.kept, ...receipt.clashed, ...receipt.refused.map((one) => one.id)]);
    const gone = left.filter((one) => over.has(one.id));
    if (receipt.refused.length) {
      const why = new Map(receipt.refused.map((one) => [one.id, one.why]));
      await change("refused", (before) => [...(before ?? []), ...gone.filter((one) => why.has(one.id)).map((one) => ({ ...one, why: why.get(one.id) }))]);
    }
    await drop(gone.map((one) => one.number));
    wait = SOON_MS;
    if (!gone.length) return;
    left = await state();
  }
}

// The queue, and what was refused, as a file that can leave the phone.
export async function asFile() {
  const content = { sent_at: new Date().toISOString(), entries: await waiting(), refused: (await read("refused")) ?? [] };
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([JSON.stringify(content, null, 1)], { type: "application/json" }));
  link.download = "mud-lamp-queue.json";
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

addEventListener("online", () => {
  wait = SOON_MS;
  send();
});
