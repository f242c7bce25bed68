// The number pad of an act: which values it takes, what stands in them, and whether that is in the band.

import { isTorqued } from "./answers.js";
import { judged } from "../terms.js";
import { torqueHint } from "../units.js";
import { isWhole, pressed } from "./pad.js";
import { dayOf } from "../times.js";

const KEY = (name, words = name, cls = "", label = words) => ({ name, words, cls, label });
const BY_MOUSE = "(hover: hover) and (pointer: fine)";
const DIGITS = ["7", "8", "9", "4", "5", "6", "1", "2", "3"];


export const padding = (my) => ({
  padRows: [],
  padAt: "",
  padKeys: [],
  padHint: "",
  padTone: "",
  padCount: "",
  padWords: "",
  padReady: false,
  hasTick: false,
  tick: false,
  tickWords: "",
  typed: "",

  // The pad.
  openPad(isNew) {
    const { pad } = this.answers;
    if (!pad) return;
    const act = my.house.act(this.current);
    const ticks = act?.inputs.find((each) => each.takes === "tick");
    if (isNew) this.tick = false;
    this.hasTick = Boolean(ticks);
    this.tickWords = ticks ? ticks.words : "";
    if (isNew || this.padRows[0]?.name !== this.padAsked()[0].name) this.padOpened();
    const under = [KEY("."), KEY("0"), KEY("clear", "clear", "", "clear all")];
    this.padKeys = padded([...DIGITS.map((digit) => KEY(digit)), ...under], sideOf(pad));
    this.padFresh();
    // Where there is a mouse there is a keyboard: what is typed goes into the value at once.
    if (isNew && globalThis.matchMedia(BY_MOUSE).matches) this.$nextTick(() => document.getElementById("typed").focus({ preventScroll: true }));
  },

  // What is asked of every test; what more is asked where more was touched.
  padAsked() {
    return this.answers.pad.rows.filter((row) => row.isAsked !== false || this.tick);
  },

  // What was typed of many values stays while somebody looks elsewhere; the first that is still empty is next.
  padOpened() {
    const before = my.typed[this.current] || {};
    this.padRows = this.padAsked().map((row) => this.padRow(row));
    for (const row of this.padRows) row.text = before[row.name] || row.text;
    const asked = this.padRows.filter((row) => !row.stands);
    this.padAt = (asked.find((row) => !row.text) || asked[0] || this.padRows[0]).name;
  },

  padRow(row) {
    const { band = "" } = my.house.bag.cards[this.current]?.aim || {};
    const unit = row.units.length ? this.unitFirst(row.units) : row.unit;
    return { ...row, unit, words: row.words || (band ? "expect " + band : "reading"), text: row.stands, isShown: true };
  },

  unitFirst(units) {
    const { unit } = my.house.bag.cards[this.current].aim;
    return units.includes(unit) ? unit : units[0];
  },

  padTo(name) {
    this.padAt = name;
    this.typed = this.rowAt().text;
    this.padFresh();
  },

  // The next value that is to be typed; what stands there is changed by a tap on it.
  padNext() {
    const at = this.padRows.findIndex((row) => row.name === this.padAt);
    const round = [...this.padRows.slice(at + 1), ...this.padRows.slice(0, at + 1)];
    return (round.find((row) => !row.stands) || round[0]).name;
  },

  rowAt() {
    return this.padRows.find((row) => row.name === this.padAt);
  },

  padPress(name) {
    if (name === "next") {
      this.padTo(this.padNext());
      return;
    }
    const row = this.rowAt();
    if (name.startsWith("unit ")) row.unit = name.slice(5);
    else row.text = pressed(row.text, name);
    row.at = Date.now();
    this.typed = row.text;
    this.padFresh();
  },

  // From a keyboard, where there is one.
  typedIn() {
    this.rowAt().text = this.typed.trim().replace(",", ".");
    this.rowAt().at = Date.now();
    this.padFresh();
  },

  padFresh() {
    const [first] = this.padRows;
    this.padReady = this.padRows.every((row) => isWhole(row.text));
    const what = this.padRows.length > 1 ? "these " + this.padRows.length : first.text + " " + first.unit;
    const isAct = this.screen === "act";
    this.padWords = this.padReady ? (isAct ? "Record " : "Keep ") + what : isAct ? "Type what it shows" : "Type its value";
    this.padFew();
    const told = isAct && this.padReady && this.padRows.length === 1 ? this.hintOf(my.house.act(this.current), first) : { words: "", tone: "" };
    this.padHint = told.words;
    this.padTone = told.tone;
  },

  // Many values are typed one after another, each with the whole glass.
  padFew() {
    const many = this.padRows.length > 2;
    if (many) my.typed[this.current] = Object.fromEntries(this.padRows.map((row) => [row.name, row.text]));
    const { group } = this.rowAt();
    for (const row of this.padRows) row.isShown = !many || row.name === this.padAt || Boolean(row.stands && row.group === group);
    const asked = this.padRows.filter((row) => !row.stands);
    const at = asked.findIndex((row) => row.name === this.padAt);
    this.padCount = many && at >= 0 ? at + 1 + " of " + asked.length + ": " + asked.map((row) => row.text || "–").join(", ") : "";
    this.padScreen(group);
  },

  hintOf(act, row) {
    if (isTorqued(act)) {
      const term = (act.terms || []).find((each) => each.unit === "N m");
      return term ? torqueHint(row.text, row.unit, term.low, term.high) : { words: "", tone: "" };
    }
    const found = judged(act.terms, this.padFields(), dayOf(Date.now()));
    return { good: { words: "in band", tone: "ok" }, bad: { words: "outside the band: it is kept as a defect", tone: "bad" }, unsure: { words: "", tone: "" } }[found];
  },

  padFields() {
    const fields = { ...this.answers.seen, ...(this.answers.other ? this.answers.other.fields : {}) };
    for (const row of this.padRows) {
      fields[row.name] = row.text;
      if (row.hasMoment && row.at) fields[row.name + "_ms"] = String(row.at);
      if (row.units.length) fields.unit = row.unit;
    }
    if (this.tick) fields.all = "yes";
    return fields;
  },

  flipTick() {
    this.tick = !this.tick;
    this.padOpened();
    this.padFresh();
  },
});

// What a value takes beside digits.
function sideOf(pad) {
  const side = [KEY("del", "del", "key-side", "delete the last")];
  const { units } = pad.rows[0];
  if (units.length) side.push(...units.map((unit) => KEY("unit " + unit, unit, "key-side unit")));
  else if (pad.rows.length > 1) side.push(KEY("next", "next", "key-side"));
  if (pad.over) side.push(KEY("OL", "OL", "key-side", "beyond the range"));
  if (pad.signed) side.push(KEY("sign", "+/−", "key-side", "sign"));
  return side;
}

// The digits in three columns, what else there is in a fourth.
function padded(keys, side) {
  const found = [];
  const rows = Math.max(Math.ceil(keys.length / 3), side.length);
  for (let row = 0; row < rows; row += 1) {
    found.push(...keys.slice(row * 3, row * 3 + 3));
    if (row * 3 < keys.length) found.push(side[row] || { name: "none" + row, words: "", cls: "key-none", label: "" });
    else if (side[row]) found.push({ ...side[row], cls: side[row].cls + " key-alone" });
  }
  return found;
}
