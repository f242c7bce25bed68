// What a person keeps for the shift: which tool of a kind is in hand. By the next day it is asked for again.

const KEPT = "gumboot-tools";
const SHIFT_MS = 14 * 3600000;

function read(storage) {
  try {
    return JSON.parse(storage.getItem(KEPT) || "{}");
  } catch {
    return {};
  }
}

export function keptTool({ job, kind }, now, storage = globalThis.localStorage) {
  const found = read(storage)[job + " " + kind];
  return found && now - found.at < SHIFT_MS ? found.id : "";
}

export function keepTool({ job, kind, id }, now, storage = globalThis.localStorage) {
  try {
    storage.setItem(KEPT, JSON.stringify({ ...read(storage), [job + " " + kind]: { id, at: now } }));
  } catch {
    // a private window: it is asked for again
  }
}
