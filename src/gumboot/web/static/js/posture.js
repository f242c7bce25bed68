// On a narrow glass a station is shown in the hand: one act at a time, never the bench in one column. Who asks for the bench gets it.

const NARROW = "(max-width: 640px)";
const STATION = /^\/jobs\/([^/]+)\/([a-z-]+)(?:\/([^/]+))?$/;

// Where a station's page, or the card of an end, is in the hand; nothing for a page that has no such place.
export function handOf(path) {
  const found = STATION.exec(path);
  if (!found) return "";
  const [, job, station, end] = found;
  const place = end && station === "wire" ? "torque:" + end : station;
  return "/jobs/" + job + "/hand#" + place;
}

// Who opens the hand has done with the bench on this screen.
export function benchNoMore() {
  document.cookie = "gumboot_posture=; path=/; max-age=0; samesite=lax";
}

export function toHand() {
  const here = document.querySelector("[data-posture-hand]");
  if (!here || document.cookie.includes("gumboot_posture=bench") || !globalThis.matchMedia(NARROW).matches || location.search) return;
  location.replace(handOf(location.pathname));
}
