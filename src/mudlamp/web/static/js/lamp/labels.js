// Where labels stand: none over another, none over a fish's echo. Each tries the places about its own ring, the nearest first.

const HIGH = 18;
const GAP = 4;
// How far off a label may stand [px]; a farther one gets a leader line.
const OFFS = [0, 20, 42, 66];
const AROUND = [[1, 0], [-1, 0], [0, -1], [0, 1], [1, -1], [-1, -1], [1, 1], [-1, 1]];

const meets = (a, b) => a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;

function spot(mark, wide, [dx, dy], off) {
  const reach = mark.radius + GAP + off;
  const x = mark.x + dx * reach;
  const y = mark.y + dy * (reach + HIGH / 2);
  const left = dx > 0 ? x : dx < 0 ? x - wide : x - wide / 2;
  return { left, right: left + wide, top: y - HIGH / 2, bottom: y + HIGH / 2, off };
}

// `marks` are {x, y, radius, text}, the most wanted first; `wide` tells how wide a text is. Returns the boxes of those that found a place.
export function placeLabels(marks, view, wide, others = []) {
  const taken = [...marks, ...others].map(({ x, y, radius }) => ({ left: x - radius, right: x + radius, top: y - radius, bottom: y + radius }));
  const placed = [];
  for (const mark of marks) {
    if (!mark.text) continue;
    const width = wide(mark.text);
    const free = OFFS.flatMap((off) => AROUND.map((way) => spot(mark, width, way, off))).find(
      (box) => box.left >= 2 && box.right <= view.width - 2 && box.top >= view.top && box.bottom <= view.height - 2 && !taken.some((one) => meets(box, one)),
    );
    if (!free) continue;
    taken.push(free);
    placed.push({ ...free, text: mark.text, x: mark.x, y: mark.y, radius: mark.radius });
  }
  return placed;
}
