// Beside each control: what it gives, what it takes, what it costs now; and auto, with its reason.

export function mountExplain(root, { send, side }) {
  root.addEventListener(
    "toggle",
    (event) => {
      const box = event.target;
      if (event.newState !== "open" || !box.id?.startsWith("about-")) return;
      const label = root.querySelector(`[popovertarget="${box.id}"]`).getBoundingClientRect();
      box.style.top = `${Math.min(label.bottom + 6, window.innerHeight - box.offsetHeight - 8)}px`;
      box.style.left = `${Math.max(8, Math.min(label.left, window.innerWidth - box.offsetWidth - 8))}px`;
      const price = box.querySelector("[data-price]");
      if (!price) return;
      price.textContent = "Measuring what it costs right now…";
      send({ type: "price", control: price.dataset.price, side: side() });
    },
    true,
  );
  root.addEventListener("change", (event) => {
    const { auto } = event.target.dataset;
    if (auto) send({ type: "auto", control: auto, on: event.target.checked, side: side() });
    if ("fast" in event.target.dataset) send({ type: "settle", fast: event.target.checked });
  });
}

export function showPrice(root, message) {
  const line = root.querySelector(`[data-price="${message.control}"]`);
  if (line) line.textContent = message.now;
}

export function showAuto(root, pane, state) {
  for (const box of root.querySelectorAll("[data-auto]")) box.checked = pane.auto.includes(box.dataset.auto);
  for (const sign of root.querySelectorAll("[data-auto-sign]")) sign.hidden = !pane.auto.includes(sign.dataset.autoSign);
  for (const line of root.querySelectorAll("[data-why]")) line.textContent = pane.why[line.dataset.why] ?? "";
  root.querySelector("[data-fast]").checked = state.fast;
}

export function showSettled(root, share) {
  root.querySelector("[data-settled]").textContent = `${share} %`;
}
