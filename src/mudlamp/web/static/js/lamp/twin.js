// The twin picture's table: both set-ups' readings and the difference.

export function showTwin(root, rows) {
  root.hidden = rows.length === 0;
  if (!rows.length) return;
  const table = document.createElement("table");
  const head = table.createTHead().insertRow();
  for (const word of ["", "Set-up A", "Set-up B", "B vs. A"]) {
    const cell = document.createElement("th");
    cell.scope = "col";
    cell.textContent = word;
    head.append(cell);
  }
  const body = table.createTBody();
  for (const row of rows) {
    const line = body.insertRow();
    line.className = row.better ? `better-${row.better}` : "";
    const title = document.createElement("th");
    title.scope = "row";
    title.textContent = row.title;
    line.append(title);
    for (const text of [row.a, row.b, row.difference]) line.insertCell().textContent = text;
  }
  root.replaceChildren(table);
}

export function mountSides(root, { rail, send, changed }) {
  root.addEventListener("change", (event) => {
    rail.side = event.target.value;
    changed();
  });
  root.addEventListener("click", (event) => {
    const what = event.target.dataset.twin;
    if (what) send({ type: "twin", do: what, side: rail.side });
  });
}
