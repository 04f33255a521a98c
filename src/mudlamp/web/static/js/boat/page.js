// Boat mode: opens from what the phone keeps, fetches a newer pack where there is a link, keeps the screen awake.

import { footCount, openPad, showCast, undoLast } from "./cast.js";
import { read, write } from "./keep.js";
import { useKeys } from "./keys.js";
import { showLog } from "./log.js";
import { onState, send, state } from "./queue.js";
import { showSetup } from "./setup.js";
import { useThumb } from "./thumb.js";
import { asked, follow, post } from "../shared/jobs.js";

const $ = (id) => document.getElementById(id);
const TABS = { cast: "Cast", setup: "Set-up", log: "Log" };
let pack = null;

function open(tab) {
  for (const name of Object.keys(TABS)) $(name).hidden = name !== tab;
  for (const button of document.querySelectorAll("[data-tab]")) {
    if (button.dataset.tab === tab) button.setAttribute("aria-current", "page");
    else button.removeAttribute("aria-current");
  }
  $("boat-title").textContent = TABS[tab];
  scrollTo(0, 0);
  if (tab === "log" && pack) showLog(pack);
}

async function use(found) {
  pack = found;
  await showCast(pack);
  await showSetup(pack);
  await showLog(pack);
  $("boat-caution").textContent = pack.boat_caution;
  // The day opens on the last time like this, once a pack.
  $("last-time-text").textContent = (pack.last_time ?? []).join(" ");
  $("last-time").hidden = !pack.last_time?.length || (await read("last-time")) === pack.made_at;
}

// The newest pack, where there is a link; the one that is kept stays good until then.
async function fetchPack() {
  try {
    const found = await asked("/api/v1/boat/pack");
    if (!found || found.made_at === pack?.made_at) return Boolean(pack);
    await write("pack", found);
    await use(found);
    return true;
  } catch {
    return Boolean(pack);
  }
}

async function makePack(card) {
  $("making").textContent = "Making the pack…";
  try {
    const job = await post(`/api/v1/boat/pack${card ? `?card=${card}` : ""}`, {});
    const last = await follow(job, (now) => ($("making").textContent = `Making the pack: ${Math.round(100 * now.share)} %`));
    if (last.state !== "done") throw new Error(last.error ?? "It was stopped.");
    await fetchPack();
    $("making").textContent = "The pack is on this phone. You can go without a link.";
  } catch (error) {
    $("making").textContent = error instanceof TypeError ? "No link: the pack that is here still holds." : error.message;
  }
}

onState(({ left, refused, trouble }) => {
  const words = left ? `${left} waiting${trouble ? `, ${trouble}` : ""}` : trouble || "all sent";
  $("boat-link").textContent = words;
  $("queue-state").textContent = `${words}${refused ? `. ${refused} refused: save them as a file` : ""}.`;
  if (!$("log").hidden && pack) showLog(pack);
});

async function stayAwake() {
  try {
    if (document.visibilityState === "visible") await navigator.wakeLock?.request("screen");
  } catch {
    // A low battery may refuse it.
  }
}

for (const button of document.querySelectorAll("[data-tab]")) button.addEventListener("click", () => open(button.dataset.tab));
$("last-time-ok").addEventListener("click", async () => {
  $("last-time").hidden = true;
  await write("last-time", pack.made_at);
});
$("make-pack").addEventListener("click", () => makePack(""));
document.addEventListener("visibilitychange", stayAwake);
document.addEventListener("pointerdown", stayAwake, { once: true });

if ("serviceWorker" in navigator) navigator.serviceWorker.register("/boat/worker.js", { scope: "/boat" });
else $("boat-missing").textContent = "Not over https: this page cannot be kept on the phone, nor the screen awake. Leave it open and it still queues. See Door.";
navigator.storage?.persist?.();
await useThumb();
await useKeys({ count: footCount, pad: openPad, say: () => $("say-it").click(), undo: undoLast });
const kept = await read("pack");
if (kept) await use(kept);
await state();
const wanted = new URLSearchParams(location.search).get("make");
if (wanted !== null) {
  open("setup");
  history.replaceState(null, "", "/boat");
  await makePack(wanted);
} else if (!(await fetchPack())) {
  open("setup");
  await makePack("");
}
send();
document.body.dataset.ready = "yes";
