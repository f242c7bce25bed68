// What can be answered to an act in the hand, made of what the act asks for: one answer that is held, others beside it, and what stood in the way.

import { packedFields, packedWords } from "./packing.js";

const SAYS = {
  look: ["Seen, as asked", "Not as asked"],
  cover: ["Closed, as asked", "Not closed"],
  label: ["It sticks there", "It is not there"],
  inside: ["All of it is in", "Not all of it"],
  bridge: ["It is out", "It is still in"],
  ferrite: ["It is on, as asked", "Not on, or otherwise"],
  bridged: ["It is in, as asked", "Not in, or another"],
  entries: ["Used and blanked as asked", "Not as asked"],
  unpack: ["All there, nothing broken", "Missing or broken"],
  find: ["Looked for and drawn", "Not looked for, or in the way"],
  board: ["It is up, as asked", "Not up, or otherwise"],
  marked: ["Marked, and square", "Not square, or otherwise"],
  recheck: ["In one line: unmoved", "It has moved"],
};
const DONE = {
  lift: ["In its place", "level, and every fixing holds"],
  step: ["Done and seen", ""],
  off: ["Done", "it is off"],
  ritual: ["Done", ""],
  lead: ["Made and laid", "each core as asked"],
  core: ["Closed round it", "both halves clicked"],
};
const COULD = { "could not be done": "Could not be done", "snug only": "Snug only", "no tool": "No tool for it" };
// What stood in the way, ready to be tapped with gloves on; other words are typed.
export const REASONS = ["The part is missing", "The part is damaged", "It does not fit here", "Somebody else has to be asked", "No access to it today"];
const OVER_UNITS = new Set(["Mohm", "ohm", "MΩ", "Ω"]);

const seen = (act) => Object.fromEntries(act.inputs.filter((asked) => asked.takes === "seen").map((asked) => [asked.name, asked.stands || ""]));
const named = (act, name) => act.inputs.find((asked) => asked.name === name);

// What is tightened to a value with a torque tool.
export const isTorqued = (act) => ["torque", "joint", "fixed"].includes(act.kind);

function unitOf(asked, card) {
  return asked.unit && card.aim.shows ? card.aim.shows : asked.unit || "";
}

// The fields of the number pad: each with its words and unit, and what stands there already.
export function padOf(act, card) {
  const rows = act.inputs.filter((asked) => asked.takes === "quantity");
  if (!rows.length) return null;
  const over = rows.length === 1 && act.kind === "measurement" && act.band.high === undefined && act.band.expected === undefined;
  return {
    rows: rows.map((asked) => ({
      name: asked.name,
      words: rows.length > 1 ? asked.words : "",
      group: asked.group || "",
      unit: asked.units ? "" : unitOf(asked, card),
      units: asked.units || [],
      stands: asked.stands || "",
      isAsked: asked.required !== false,
      hasMoment: act.inputs.some((each) => each.takes === "moment" && each.name === asked.name + "_ms"),
    })),
    over: over || OVER_UNITS.has(act.band.unit),
    signed: act.band.measures === "signed" || act.kind === "meter" || (act.band.low ?? 0) < 0 || act.band.measures === "polarity",
  };
}

function could(act, card, more = []) {
  const rows = (card.aim.could_not || []).map((choice) => ({
    words: COULD[choice] || choice,
    sub: choice === "could not be done" ? "with the reason" : "a defect until it is done",
    fields: { could_not: choice },
    asksWhy: choice === "could not be done",
  }));
  return [...more, ...rows];
}

function landing(act, card, tool) {
  const { aim } = card;
  if (!named(act, "tug")) return { hold: null, could: could(act, card) };
  if (aim.end === "spring") {
    const moved = { words: "It came out", sub: "or moved when pulled", fields: { tug: "moved", pressed: "no" } };
    return {
      hold: { words: "Pushed in, it held", sub: "pulled, and pressed home again after", fields: { tug: "held", pressed: "yes" } },
      could: could(act, card, [moved]),
    };
  }
  const torque = { reached: aim.digits, unit: aim.unit, tool, tug: "held" };
  const moved = { words: "It moved when pulled", sub: "tightened to " + aim.digits + " " + aim.unit, fields: { ...torque, tug: "moved" } };
  return {
    hold: { words: "Clicked at " + aim.digits + " " + aim.unit, sub: "and it did not move when pulled", fields: torque },
    other: { words: "Other value", sub: "number pad", fields: { tool, tug: "held" } },
    could: could(act, card, [moved]),
  };
}

// A joint from the factory: no conductor in it that could be pulled.
function joint(act, card, tool) {
  const { aim } = card;
  const fields = { reached: aim.digits, unit: aim.unit, tool };
  return {
    hold: { words: "Clicked at " + aim.digits + " " + aim.unit, sub: "and a mark drawn across it", fields },
    other: { words: "Other value", sub: "number pad", fields: { tool } },
    could: could(act, card),
    pad: padOf(act, card),
  };
}

// Holes: as marked, or how far the worst of them is off.
function drilled(act, card) {
  return {
    hold: { words: "Drilled as marked", sub: "dust out", fields: { right: "0", up: "0", unit: "mm" } },
    other: { words: "Off its mark", sub: "how far, the worst hole", fields: {} },
    could: could(act, card),
    pad: { ...padOf(act, card), signed: true },
  };
}

function offWords(fields) {
  const told = [["right", "right"], ["up", "above"]].filter(([name]) => Number(fields[name] || 0) !== 0);
  return told.map(([name, words]) => fields[name] + " " + fields.unit + " " + words).join(", ") || "as marked";
}

// A value that differs stands with its reason; where it guards something, a licence holder agrees to it.
function setting(act, card, { left, agree }) {
  const { aim } = card;
  const fields = { value: aim.asked };
  const reason = named(act, "reason");
  return {
    hold: { words: "Left at " + aim.asked, sub: "as asked", fields },
    agree: agree ? { words: "Agree to " + left, sub: "with its reason", fields: { record: agree } } : null,
    choices: (aim.choices || []).filter((choice) => choice !== aim.asked),
    other: { words: "Other value", sub: aim.unit ? "in " + aim.unit : "as the display shows it", text: "value" },
    why: reason && left ? { words: "Say why it is " + left, text: "reason", fields: { value: left } } : null,
    could: could(act, card),
  };
}

function plain(act, card) {
  const [words, sub] = card.aim.done || DONE[act.kind] || ["Done", ""];
  const hold = act.kind === "photo" ? null : { words, sub, fields: {} };
  return { hold, could: could(act, card) };
}

function yesNo(act, card) {
  const asked = act.inputs.find((each) => each.takes === "choice");
  const [yes, no] = asked.says && asked.says.some(Boolean) ? asked.says : SAYS[act.kind] || SAYS.look;
  return {
    hold: { words: yes, sub: "", fields: { [asked.name]: "yes" } },
    no: { words: no, sub: "a defect until it is", fields: { [asked.name]: "no" } },
    could: could(act, card),
  };
}

// How an act is answered: what is held, what stands beside it, and in which way it begins.
export function answersOf(act, card, { tool = "", left = "", agree = "", failed = false } = {}) {
  const more = seen(act);
  const found = made(act, card, { tool, left, agree, failed });
  for (const answer of [found.hold, found.no, found.other, ...(found.could || [])]) {
    if (answer && answer.fields && !answer.fields.could_not) answer.fields = { ...more, ...answer.fields };
  }
  return { begins: "main", pad: null, choices: [], ...found, seen: more };
}

// The cores of a lead in the order in which they are rung: where each must beep, and where it may.
function ringOf(act, { aim }) {
  const cores = act.inputs.map((asked) => ({ name: asked.name, ...aim.cores[asked.name] }));
  return { cores, near: aim.near, far: aim.far, places: act.inputs[0].choices };
}

// What is packed line by line.
function packed(act, card) {
  const ticks = act.inputs.filter((asked) => asked.takes === "tick").map((asked) => ({ name: asked.name, words: asked.words, isIn: asked.stands === "yes" }));
  return { hold: { ...packedWords(ticks), fields: packedFields(ticks) }, ticks, could: could(act, card) };
}

// A core that was found odd is tested again by itself, after what was said is done.
function metered(act, card, failed) {
  const pad = padOf(act, card);
  const again = [...new Set(pad.rows.filter((row) => row.isAsked && !row.stands).map((row) => row.words.split(" ")[0]))];
  const isPart = pad.rows.some((row) => !row.isAsked);
  if (!isPart && !failed) return { hold: null, begins: "pad", pad, could: could(act, card) };
  return { hold: null, other: { words: "Test " + again.join(" and ") + " again", sub: "after what is said above", fields: {} }, pad, could: could(act, card) };
}

function made(act, card, { tool, left, agree, failed }) {
  if (act.kind === "torque") return { ...landing(act, card, tool), pad: padOf(act, card) };
  if (act.kind === "hole") return drilled(act, card);
  if (isTorqued(act)) return joint(act, card, tool);
  if (act.kind === "setting") return setting(act, card, { left, agree });
  if (act.kind === "ring") return { hold: null, begins: "ring", ring: ringOf(act, card), could: could(act, card) };
  if (act.kind === "meter") return metered(act, card, failed);
  if (act.kind === "pack") return packed(act, card);
  const pad = padOf(act, card);
  if (pad) return { hold: null, begins: "pad", pad, could: could(act, card) };
  const text = act.inputs.find((asked) => asked.takes === "text");
  if (text) return { hold: null, begins: "text", text: text.name, could: could(act, card) };
  if (act.inputs.some((asked) => asked.takes === "choice")) return yesNo(act, card);
  return plain(act, card);
}

// The kind of tool that an act asks for, and whether it must be named.
export function toolAsked(act) {
  const asked = act.inputs.find((each) => each.takes === "tool");
  return asked ? { kinds: asked.choices, required: asked.required } : null;
}

// What speaks against a tool here today: its calibration, its range, its rating.
export function against(tool, card, day) {
  const words = [...((card.against || {})[tool.id] || [])];
  if (tool.until < day) words.unshift("calibration over since " + tool.until);
  return words;
}

function landedWords(fields) {
  const reached = fields.reached ? fields.reached + " " + fields.unit + ", " : "";
  return reached + (fields.tug === "held" ? "held the pull" : "moved when pulled");
}

function linesWords(act, fields) {
  const count = act.inputs.filter((each) => fields[each.name] === "yes").length;
  return count === act.inputs.length ? "all " + count + " lines in" : count + " of " + act.inputs.length + " lines in";
}

const SAID = {
  torque: (act, fields) => landedWords(fields),
  hole: (act, fields) => offWords(fields),
  pack: linesWords,
  meter: (act, fields) => act.inputs.filter((each) => each.takes === "quantity" && !each.stands && fields[each.name]).length + " readings",
  ring: (act, fields) => act.inputs.map((each) => each.name.slice("pin-".length) + " at " + fields[each.name]).join(", "),
};

// What was answered, in words.
export function saidWords(act, fields) {
  if (fields.could_not) return fields.could_not;
  if (fields.photo) return "picture";
  if (SAID[act.kind]) return SAID[act.kind](act, fields);
  if (isTorqued(act)) return fields.reached + " " + fields.unit;
  const asked = act.inputs.filter((each) => !["seen", "tool", "tick", "moment"].includes(each.takes) && fields[each.name]);
  const words = asked.map((each) => fields[each.name] + (each.unit && each.takes === "quantity" ? " " + each.unit : ""));
  return words.join(", ") || "done";
}
