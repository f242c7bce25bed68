// The number pad: what stands in a field after a key, and nothing else. A value is typed as the instrument shows it.

const MOST = 12;
const DIGIT = /^\d$/;

const withPoint = (now) => (now.includes(".") ? now : (now === "" || now === "-" ? now + "0" : now) + ".");
const withDigit = (now, key) => (/^-?0$/.test(now) ? now.replace("0", key) : now + key);

const KEYS = {
  del: (text) => (text === "OL" ? "" : text.slice(0, -1)),
  clear: () => "",
  OL: () => "OL",
  sign: (text) => (text === "OL" ? "-" : text.startsWith("-") ? text.slice(1) : "-" + text),
};

export function pressed(text, key) {
  if (KEYS[key]) return KEYS[key](text);
  const now = text === "OL" ? "" : text;
  if (now.length >= MOST) return now;
  if (key === ".") return withPoint(now);
  return DIGIT.test(key) ? withDigit(now, key) : now;
}

// Whether it says something that can be recorded.
export const isWhole = (text) => text === "OL" || /^-?\d+(\.\d+)?$/.test(text);
