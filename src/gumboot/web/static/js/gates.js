// What may be done, as this phone knows it: the acts that the server gave, and what was recorded here since. No rule of the trade stands here:
// which act waits for which, what ends the truth of what was seen, and what is right are the server's data. The server decides.

import { judged, numberOf } from "./terms.js";
import { dayOf } from "./times.js";

const HOUR_MS = 3600000;
// Acts that make something live ask for proofs of the day.
const ASKS_AGAIN = new Set(["step", "ritual"]);
const DONE = new Set(["good", "cleared", "used"]);
const HOLDS = new Set(["good", "cleared"]);
const NOTHING = { held: [], unsure: [] };

const timeOf = (text) => (text ? Date.parse(text) : null);
const timesOf = (named) => new Map(Object.entries(named).map(([name, text]) => [name, timeOf(text)]));
// What was read, NaN where the server has to read it; nothing where no number was asked for.
const readOf = (act, fields) => (act.kind === "measurement" ? numberOf(fields.value ?? "", act.band.unit, fields) : undefined);
const later = (at, before) => before !== null && before !== undefined && at !== null && before > at;

export class Gates {
  constructor(carried) {
    this.carried = carried;
    this.person = carried.person;
    this.acts = new Map(carried.acts.map((act) => [act.id, act]));
    this.made = [];
    this.begin();
  }

  // As the server gave it.
  begin() {
    const { carried } = this;
    // How each act stands by its last record; one that was recorded here is judged here.
    this.stood = new Map(carried.acts.map((act) => [act.id, { state: act.state, at: timeOf(act.last.done_at), value: act.last.value }]));
    this.moved = timeOf(carried.since.moved);
    this.landed = timesOf(carried.since.landed);
    this.undone = timesOf(carried.since.undone);
    this.marks = new Map();
    // What follows from readings of which one was made here, and what of that was cleared here.
    this.derived = new Set();
    this.cleared = new Set();
    this.updated = null;
    // Something from before was taken back: what stands without it, only the server knows.
    this.isLost = false;
  }

  // A record that was made here: its id, the act, what was answered, and when.
  add(record) {
    if (record.fields.take_back) this.takeBack(record.fields.take_back);
    else {
      this.made.push(record);
      this.apply(record);
    }
  }

  takeBack(id) {
    const rest = this.made.filter((record) => record.id !== id);
    const isLost = this.isLost || rest.length === this.made.length;
    this.begin();
    this.isLost = isLost;
    this.made = rest;
    for (const record of rest) this.apply(record);
  }

  apply({ act: id, fields, at }) {
    const act = this.acts.get(id);
    if (!act) return;
    if (act.kind === "clearance") {
      this.clear(act.thing);
      return;
    }
    const state = this.inTurn(act, this.stateOf(act, fields, at), at);
    if (act.kind === "firmware" && this.stood.get(id).at !== null) this.updated = at;
    this.stood.set(id, { state, at, value: fields.could_not ? undefined : readOf(act, fields) });
    this.follow(act);
    if (!fields.could_not) this.moves(act, at);
    if (act.run) this.landed.set(act.run, at);
    if (act.kind === "recheck") this.mark(act, state, at);
  }

  follow(act) {
    for (const other of this.acts.values()) {
      if (!other.is_derived || !other.needs.includes(act.id)) continue;
      this.derived.add(other.id);
      this.cleared.delete(other.id);
    }
  }

  // A mark that has moved ends its landing; whether one that is straight again mends it, the server tells.
  mark(act, state, at) {
    const landing = act.needs[0];
    this.marks.delete(act.id);
    if (state !== "good") this.marks.set(act.id, { landing, at });
    else if (this.stood.get(landing)?.state === "lapsed") this.stood.set(landing, { ...this.stood.get(landing), state: "unsure" });
  }

  // What was done out of its turn is kept, and opens nothing.
  inTurn(act, state, at) {
    if (state !== "good") return state;
    const { held, unsure } = this.heldBy(act.id, at);
    if (held.length) return "open";
    return unsure.length ? "unsure" : state;
  }

  stateOf(act, fields, at) {
    if (fields.could_not) return "failed";
    const found = judged(act.terms, fields, dayOf(at));
    return { good: "good", bad: "failed", unsure: "unsure" }[found];
  }

  clear(id) {
    const stood = this.stood.get(id);
    if (!stood || this.state(id, stood.at) !== "failed") return;
    if (this.derived.has(id)) this.cleared.add(id);
    // Whether cells have become too cold for what was read, only the server knows.
    else this.stood.set(id, { ...stood, state: this.acts.get(id).lasts.below === null ? "cleared" : "unsure" });
  }

  moves(act, at) {
    if (act.moves.length || act.undoes.length) this.moved = at;
    for (const id of act.undoes) this.undone.set(id, at);
  }

  // What follows from other readings: how far they stand apart.
  spread(act) {
    const read = act.needs.map((id) => this.stood.get(id));
    if (read.some((each) => each.value === undefined || each.value === null)) return "open";
    if (read.some((each) => Number.isNaN(each.value))) return "unsure";
    const values = read.map((each) => each.value);
    const apart = Math.round((Math.max(...values) - Math.min(...values)) * 1e6) / 1e6;
    if (apart <= (act.band.high ?? Infinity) && apart >= (act.band.low ?? -Infinity)) return "good";
    return this.cleared.has(act.id) ? "cleared" : "failed";
  }

  // How an act stands at a moment, with what has happened since.
  state(id, now) {
    const act = this.acts.get(id);
    if (this.isLost) return "unsure";
    if (this.derived.has(id)) return this.spread(act);
    const { state, at } = this.stood.get(id);
    if (!HOLDS.has(state) || at === null) return state;
    return this.ended(act, at, now) ?? state;
  }

  // What has ended the truth of what was seen at a moment; null where it is true still.
  ended(act, at, now) {
    const { lasts } = act;
    if ((this.undone.get(act.id) ?? -Infinity) >= at || this.isMarked(act.id, at)) return "lapsed";
    if (lasts.landed.some((run) => later(at, this.landed.get(run)))) return "lapsed";
    if (lasts.firmware && later(at, this.updated)) return "unsure";
    const isOld = lasts.hours !== null && now - at > lasts.hours * HOUR_MS;
    return isOld || (lasts.moves && later(at, this.moved)) ? "used" : null;
  }

  isMarked(id, at) {
    return [...this.marks.values()].some((mark) => mark.landing === id && mark.at >= at);
  }

  // What holds an act back, nearest first, and what of that only the server can tell.
  heldBy(id, now) {
    const act = this.acts.get(id);
    if (act.makes_safe) return NOTHING;
    const found = this.troubles(act, now, new Map());
    const names = [...found.keys()];
    return { held: names.filter((name) => found.get(name) !== "unsure"), unsure: names.filter((name) => found.get(name) === "unsure") };
  }

  troubles(act, now, known) {
    const before = known.get(act.id);
    if (before) return before;
    const found = this.own(act, now);
    known.set(act.id, found);
    for (const name of act.needs.filter((each) => !found.has(each))) {
      for (const [other, state] of this.troubles(this.acts.get(name), now, known)) if (!found.has(other)) found.set(other, state);
    }
    return found;
  }

  // What it needs itself and has not, and what it heeds and has failed.
  own(act, now) {
    const found = new Map();
    const stands = this.state(act.id, now);
    const takesUsed = DONE.has(stands) || !ASKS_AGAIN.has(act.kind);
    for (const name of act.needs) {
      const state = this.state(name, now);
      if (HOLDS.has(state) || (takesUsed && state === "used")) continue;
      found.set(name, stands === "unsure" && state === "used" ? "unsure" : state);
    }
    for (const name of act.heeds) {
      const state = this.state(name, now);
      if (state === "failed" || state === "unsure") found.set(name, state);
    }
    return found;
  }

  // Whether an act may be done now by who is signed in: open, held, not theirs, too early, unknown, or for the server to tell.
  gate(id, now, { agrees = false } = {}) {
    const act = this.acts.get(id);
    if (!act || act.is_derived) return { gate: "unknown", by: [] };
    const may = agrees ? ["licence holder"] : act.who;
    if (!may.includes(this.person.role)) return { gate: "not yours", by: [] };
    if (this.isEarly(act, now)) return { gate: "too early", by: [act.needs[0]] };
    // A picture shows what is there, whatever may be done.
    const { held, unsure } = act.kind === "photo" ? NOTHING : this.heldBy(id, now);
    if (held.length) return { gate: "held", by: held };
    return unsure.length ? { gate: "unsure", by: unsure } : { gate: "open", by: [] };
  }

  isEarly(act, now) {
    if (!act.hours_after) return false;
    const first = this.stood.get(act.needs[0]).at;
    return first === null || now < first + act.hours_after * HOUR_MS;
  }
}
