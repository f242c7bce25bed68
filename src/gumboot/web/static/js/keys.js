// Which key does what, and where a field of the job is asked.

const NAMES = { "?": "keys", "[": "before", "]": "after", z: "undo", y: "redo", u: "units", d: "dark" };

// What a key asks for, behind the one that was pressed before it: g and a digit go to a station.
export function keyOf(key, leading) {
  if (leading === "g" && /^[0-9]$/.test(key)) return { act: { name: "station", digit: Number(key) }, leading: "" };
  return { act: NAMES[key] ? { name: NAMES[key] } : null, leading: key === "g" ? "g" : "" };
}

const STATIONS = {
  site: "survey",
  backup: "survey",
  things: "survey",
  walls: "wall",
  loads: "loads",
  strings: "strings",
  faces: "strings",
  banks: "bank",
  runs: "circuits",
  sensing: "sensing",
  settings: "settings",
};
const ON_LINKS = /^banks\.[^.]+\.(units|lead|inverter_protocol)/;

// The station on which a field of the job stands.
export function stationOfField(path) {
  return ON_LINKS.test(path) ? "links" : STATIONS[path.split(".")[0]] || "survey";
}

const COARSE = 10;

// A length in a field moved by an arrow, ten times as far with shift; nothing for what is no number.
export function nudged(text, key, far) {
  const step = { ArrowUp: 1, ArrowDown: -1 }[key];
  const value = Number(text);
  if (!step || text.trim() === "" || !Number.isFinite(value)) return null;
  return String(Math.round((value + step * (far ? COARSE : 1)) * 100) / 100);
}

// The side to which a key moves a load: arrows point at it, Enter and Space change it.
export function sideOf(key, side) {
  if (key === "ArrowRight") return "backed";
  if (key === "ArrowLeft") return "house";
  return key === "Enter" || key === " " ? (side === "backed" ? "house" : "backed") : "";
}
