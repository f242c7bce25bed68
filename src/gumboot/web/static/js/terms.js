// Is what was answered right, by the terms that the server gave with the act? Good, bad, or unsure: then only the server can tell.

import { NEWTON_METRES } from "./units.js";

const NUMBER = /^[-+]?\d+(\.\d+)?$/;
const DIGITS = 1e6;

// A number as it was typed, bare or with the very unit that is asked for; NaN for what the server has to read.
export function numberOf(text, unit, fields) {
  let plain = String(text).trim();
  if (unit === "N m") return NUMBER.test(plain) && fields.unit in NEWTON_METRES ? Number(plain) * NEWTON_METRES[fields.unit] : NaN;
  if (unit && plain.endsWith(unit)) plain = plain.slice(0, -unit.length).trim();
  return NUMBER.test(plain) ? Number(plain) : NaN;
}

function bySize(value, measures) {
  return measures === "magnitude" || measures === "polarity" ? Math.abs(value) : value;
}

function amount(term, fields) {
  if (term.is_optional && term.inputs.some((name) => !fields[name])) return "good";
  const values = term.inputs.map((name) => numberOf(fields[name] ?? "", term.unit, fields));
  if (values.some(Number.isNaN)) return "unsure";
  const value = values.length > 1 ? Math.round(Math.abs(values[0] - values[1]) * DIGITS) / DIGITS : values[0];
  if (term.measures === "polarity" && value < 0) return "bad";
  const size = bySize(value, term.measures);
  const inside = (term.low === undefined || size >= term.low) && (term.high === undefined || size <= term.high);
  return inside ? "good" : "bad";
}

function tool(term, said, day) {
  if (!said) return term.is_optional ? "good" : "unsure";
  const until = term.tools[said];
  if (until === undefined) return "unsure";
  return until >= day ? "good" : "bad";
}

function one(term, fields, day) {
  const said = fields[term.inputs[0]] ?? "";
  if (term.tools) return tool(term, said, day);
  if (term.equals) return term.equals.includes(said) ? "good" : "bad";
  return amount(term, fields);
}

// All terms together. `day` is the day on which it was done, as an ISO date in UTC, as calibrations are judged.
export function judged(terms, fields, day) {
  if (terms === null) return "unsure";
  let found = "good";
  for (const term of terms) {
    const said = one(term, fields, day);
    if (said === "good") continue;
    if (said === "unsure" || term.is_doubtful) return "unsure";
    found = "bad";
  }
  return found;
}
