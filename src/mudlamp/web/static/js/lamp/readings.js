// Readings: a word first, the figure after, a bar that says how much.

const SVG = "http://www.w3.org/2000/svg";

export function showReadings(root, rows) {
  if (root.children.length !== rows.length) root.replaceChildren(...rows.map(cell));
  rows.forEach((row, i) => fill(root.children[i], row));
}

function cell(row) {
  const box = document.createElement("div");
  box.className = "reading";
  box.dataset.name = row.name;
  for (const part of ["of", "is", "figure"]) {
    const line = document.createElement("span");
    line.className = part;
    box.append(line);
  }
  const bar = document.createElementNS(SVG, "svg");
  bar.setAttribute("viewBox", "0 0 100 5");
  bar.setAttribute("preserveAspectRatio", "none");
  bar.setAttribute("aria-hidden", "true");
  for (let i = 0; i < 2; i += 1) {
    const rect = document.createElementNS(SVG, "rect");
    rect.setAttribute("height", "5");
    rect.setAttribute("width", "100");
    bar.append(rect);
  }
  box.append(bar);
  return box;
}

function fill(box, row) {
  box.querySelector(".of").textContent = row.title;
  box.querySelector(".is").textContent = row.word;
  box.querySelector(".figure").textContent = row.figure;
  const bar = box.querySelector("svg");
  bar.setAttribute("class", `bar ${row.mood}`);
  bar.lastChild.setAttribute("width", String(100 * row.share));
}
