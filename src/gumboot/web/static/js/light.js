// The light a page is read in: as the system says, dark for a garage, or hard in the sun; and which hand holds the phone.

const LIGHT = "gumboot-light";
const OLD_DARK = "gumboot-dark";
const SIDE = "gumboot-side";
const ORDER = ["", "dark", "sun", "plain"];

function kept(name) {
  try {
    return localStorage.getItem(name) || "";
  } catch {
    return "";
  }
}

function keep(name, value) {
  try {
    localStorage.setItem(name, value);
  } catch {
    // private window: it lasts for this page
  }
}

// What was chosen; in words of earlier versions too.
export const lightNow = () => kept(LIGHT) || (kept(OLD_DARK) ? "dark" : "");

const systemDark = () => Boolean(globalThis.matchMedia && globalThis.matchMedia("(prefers-color-scheme: dark)").matches);

export function shine() {
  const chosen = lightNow();
  const shown = chosen || (systemDark() ? "dark" : "");
  if (shown && shown !== "plain") document.documentElement.dataset.theme = shown;
  else delete document.documentElement.dataset.theme;
  document.documentElement.dataset.side = kept(SIDE) || "right";
}

export function setLight(light) {
  keep(OLD_DARK, "");
  keep(LIGHT, light);
  shine();
  return light;
}

export const nextLight = () => setLight(ORDER[(ORDER.indexOf(lightNow()) + 1) % ORDER.length]);

export const isDark = () => document.documentElement.dataset.theme === "dark";

export const sideNow = () => kept(SIDE) || "right";

export function setSide(side) {
  keep(SIDE, side);
  shine();
  return side;
}

// Before anything else: a page in a dark garage does not begin with a white one.
shine();
globalThis.matchMedia?.("(prefers-color-scheme: dark)").addEventListener?.("change", shine);
