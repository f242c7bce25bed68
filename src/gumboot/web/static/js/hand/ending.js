// The prepared end of a conductor at true size. How large a millimetre is on this glass is set once, against a bank card's short side.

const KEPT = "gumboot-mm";
// Short side of an ID-1 card, ISO/IEC 7810.
export const CARD_MM = 53.98;
// A phone's glass has about 160 CSS points to the inch; only the card tells for certain.
const ASSUMED = 160 / 25.4;

export function pointsPerMm(storage = globalThis.localStorage) {
  try {
    return Number(storage.getItem(KEPT)) || 0;
  } catch {
    return 0;
  }
}

export function keepPoints(points, storage = globalThis.localStorage) {
  try {
    storage.setItem(KEPT, String(points));
  } catch {
    // a private window: it lasts for this page
  }
}

export const assumedPoints = () => pointsPerMm() || ASSUMED;

// Draws an end into its place; says whether the part may be laid on it.
export function trueSize(place, { svg, width, height }, room) {
  if (place.dataset.drawn !== svg) {
    place.innerHTML = svg;
    place.dataset.drawn = svg;
  }
  const drawn = place.querySelector("svg");
  const points = assumedPoints();
  const fits = width * points <= room;
  const shown = fits ? points : room / width;
  drawn.setAttribute("viewBox", "0 0 " + ((room / shown) * 10).toFixed(1) + " " + (height * 10).toFixed(1));
  drawn.style.height = (height * shown).toFixed(1) + "px";
  drawn.style.width = room + "px";
  if (!fits) return "smaller than it is";
  return pointsPerMm() ? "true size: lay it here" : "set true size";
}
