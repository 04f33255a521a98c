// What the phone keeps: the pack, where things stand, the queue. Every write is on the disk before it counts.

const NAME = "lamp-boat";
let opened;

function base() {
  opened ??= new Promise((done, fail) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => {
      request.result.createObjectStore("kept");
      request.result.createObjectStore("queue", { keyPath: "number" });
    };
    request.onsuccess = () => done(request.result);
    request.onerror = () => fail(request.error);
  });
  return opened;
}

// Runs one transaction and returns what `work` asked for, once all of it is kept.
async function transaction(stores, mode, work) {
  const database = await base();
  return new Promise((done, fail) => {
    const run = database.transaction(stores, mode, { durability: "strict" });
    let found;
    work(...stores.map((name) => run.objectStore(name)), (request, take = (value) => value) => {
      request.onsuccess = () => (found = take(request.result));
    });
    run.oncomplete = () => done(found);
    run.onabort = run.onerror = () => fail(run.error);
  });
}

export const read = (name) => transaction(["kept"], "readonly", (kept, want) => want(kept.get(name)));
export const write = (name, value) => transaction(["kept"], "readwrite", (kept) => kept.put(value, name));
export const waiting = () => transaction(["queue"], "readonly", (queue, want) => want(queue.getAll()));

// An act gets the next number and stands in the queue and in the list of what was done, or in neither.
export function append(entry, shown) {
  return transaction(["kept", "queue"], "readwrite", (kept, queue, want) => {
    const last = kept.get("last");
    last.onsuccess = () => {
      const number = (last.result ?? 0) + 1;
      kept.put(number, "last");
      queue.put({ ...entry, number });
      if (!shown) return;
      const acts = kept.get("acts");
      want(acts, (before) => kept.put([...(before ?? []), { ...shown, id: entry.id, number, at: entry.at }].slice(-60), "acts"));
    };
  });
}

export const change = (name, how) =>
  transaction(["kept"], "readwrite", (kept) => {
    const before = kept.get(name);
    before.onsuccess = () => kept.put(how(before.result), name);
  });

export const drop = (numbers) => transaction(["queue"], "readwrite", (queue) => numbers.forEach((number) => queue.delete(number)));
