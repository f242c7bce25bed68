// How far a house is, as somebody strikes it on a wall: five to a bundle, dotted where it is still to be done.

const SVG = "http://www.w3.org/2000/svg";
const STEP = 4;
const GAP = 6;
const HIGH = 18;

function stroke([x1, y1, x2, y2], name) {
  const line = document.createElementNS(SVG, "line");
  for (const [key, value] of Object.entries({ x1, y1, x2, y2, class: name })) line.setAttribute(key, value);
  return line;
}

// Where each of `count` strokes stands: four upright and the fifth across them.
export function strokesOf(count) {
  return Array.from({ length: count }, (_, n) => {
    const left = Math.floor(n / 5) * (4 * STEP + GAP);
    const fifth = n % 5 === 4;
    const x = left + (n % 5) * STEP + 2;
    return fifth ? [left - 1, HIGH - 4, left + 4 * STEP - 1, 4] : [x, 2, x, HIGH - 2];
  });
}

export function tally(place, house) {
  const ends = house.order.filter((id) => id.startsWith("torque:"));
  const done = ends.filter((id) => house.isDone(id)).length;
  const svg = document.createElementNS(SVG, "svg");
  const strokes = strokesOf(ends.length);
  const width = strokes.length ? Math.max(...strokes.flatMap(([x1, , x2]) => [x1, x2])) + 3 : 10;
  svg.setAttribute("viewBox", "-2 0 " + (width + 4) + " " + HIGH);
  svg.setAttribute("role", "img");
  svg.setAttribute("aria-label", done + " of " + ends.length + " terminations done");
  strokes.forEach((at, n) => svg.append(stroke(at, n < done ? "done" : "todo")));
  place.replaceChildren(svg);
}
