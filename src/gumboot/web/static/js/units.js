// Units of torque as they are read off a tool.

// By definition: 1 lbf = 4.4482216152605 N, 1 in = 0.0254 m, 12 in to the foot.
const INCH_POUND = 4.4482216152605 * 0.0254;
// One of the unit in N m.
export const NEWTON_METRES = { "N m": 1, "lbf in": INCH_POUND, "lbf ft": 12 * INCH_POUND };
const ROUNDING = 1e-6;

// A number as somebody types it, with a point or a comma; NaN for what is none.
export function typedNumber(text) {
  const plain = String(text).trim().replace(",", ".");
  return plain === "" ? NaN : Number(plain);
}

// What a typed torque is against its band in N m: its words and tone. A value that would be right in another unit says so.
export function torqueHint(text, unit, low, high) {
  const typed = typedNumber(text);
  if (!Number.isFinite(typed)) return { words: "", tone: "" };
  const inside = (of) => typed * NEWTON_METRES[of] >= low - ROUNDING && typed * NEWTON_METRES[of] <= high + ROUNDING;
  if (inside(unit)) return { words: "in band", tone: "ok" };
  const meant = Object.keys(NEWTON_METRES).find((other) => other !== unit && inside(other));
  const side = typed * NEWTON_METRES[unit] < low ? "too low" : "too high";
  return { words: side + (meant ? "; did you read " + meant + "?" : ""), tone: "bad" };
}
