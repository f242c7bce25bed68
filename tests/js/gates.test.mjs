// What a phone tells by what the server gave it: small houses written by hand; the case tables of the whole houses are played elsewhere.
import assert from "node:assert/strict";
import { test } from "node:test";

import { Gates } from "../../src/gumboot/web/static/js/gates.js";
import { Known, aimOf, verdictOf } from "../../src/gumboot/web/static/js/known.js";
import { judged } from "../../src/gumboot/web/static/js/terms.js";

const AT = Date.parse("2026-11-27T08:00:00Z");
const HOUR = 3600000;
const LASTS = { hours: null, moves: false, landed: [], rests: "", firmware: false, below: null };
const act = (id, more = {}) => ({
  id,
  kind: id.split(":")[0],
  station: "links",
  title: id,
  thing: "",
  band: { unit: "" },
  who: ["installer", "licence holder"],
  needs: [],
  heeds: [],
  lasts: LASTS,
  hours_after: 0,
  moves: [],
  undoes: [],
  makes_safe: false,
  is_derived: false,
  state: "open",
  run: "",
  terms: [],
  last: {},
  ...more,
});
const given = (...acts) => ({ person: { name: "ivo", role: "installer" }, acts, since: { moved: null, landed: {}, undone: {}, updated: null } });
const made = (id, fields = {}, at = AT) => ({ id: "r-" + id + at, act: id, fields, at });

test("an act waits for what it needs, through what is done, and is open once that is recorded here", () => {
  const gates = new Gates(given(act("ritual:a"), act("ritual:b", { needs: ["ritual:a"] }), act("ritual:c", { needs: ["ritual:b"] })));
  assert.deepEqual(gates.gate("ritual:b", AT), { gate: "held", by: ["ritual:a"] });
  gates.add(made("ritual:a"));
  assert.deepEqual(gates.gate("ritual:c", AT), { gate: "held", by: ["ritual:b"] });
  gates.add(made("ritual:b"));
  assert.deepEqual(gates.gate("ritual:c", AT), { gate: "open", by: [] });
});

test("what was done out of its turn opens nothing, and does once it is done again", () => {
  const gates = new Gates(given(act("ritual:a"), act("ritual:b", { needs: ["ritual:a"] }), act("ritual:c", { needs: ["ritual:b"] })));
  gates.add(made("ritual:b"));
  gates.add(made("ritual:a", {}, AT + 1));
  assert.deepEqual(gates.gate("ritual:c", AT + 1), { gate: "held", by: ["ritual:b"] });
  gates.add(made("ritual:b", {}, AT + 2));
  assert.equal(gates.gate("ritual:c", AT + 2).gate, "open");
});

test("what could not be done, or was taken back, holds again", () => {
  const gates = new Gates(given(act("ritual:a"), act("ritual:b", { needs: ["ritual:a"] })));
  gates.add(made("ritual:a"));
  gates.add(made("ritual:a", { could_not: "no tool" }, AT + 1));
  assert.equal(gates.gate("ritual:b", AT + 1).gate, "held");
  gates.add({ ...made("ritual:a"), fields: { take_back: "r-ritual:a" + (AT + 1) } });
  assert.equal(gates.gate("ritual:b", AT + 1).gate, "open");
  gates.add({ ...made("ritual:a"), fields: { take_back: "from before" } });
  assert.deepEqual(gates.gate("ritual:b", AT), { gate: "unsure", by: ["ritual:a"] });
});

test("a proof of the day is too old to the millisecond, and used up for what was done on it", () => {
  const dead = act("check:dead", { kind: "measurement", lasts: { ...LASTS, hours: 12 }, state: "good", last: { done_at: "2026-11-27T08:00:00Z" } });
  const gates = new Gates(given(dead, act("step:one", { needs: ["check:dead"] }), act("cover:box", { needs: ["check:dead"] })));
  assert.equal(gates.gate("step:one", AT + 12 * HOUR).gate, "open");
  assert.deepEqual(gates.gate("step:one", AT + 12 * HOUR + 1), { gate: "held", by: ["check:dead"] });
  assert.equal(gates.gate("cover:box", AT + 12 * HOUR + 1).gate, "open");
});

test("another's work, a day too early, and what the plan does not know", () => {
  const torque = act("torque:x", { state: "good", last: { done_at: "2026-11-27T08:00:00Z" } });
  const gates = new Gates(given(torque, act("recheck:x", { needs: ["torque:x"], hours_after: 24 }), act("clear:x", { who: ["licence holder"] })));
  assert.equal(gates.gate("recheck:x", AT + 24 * HOUR - 1).gate, "too early");
  assert.equal(gates.gate("recheck:x", AT + 24 * HOUR).gate, "open");
  assert.equal(gates.gate("clear:x", AT).gate, "not yours");
  assert.equal(gates.gate("torque:x", AT, { agrees: true }).gate, "not yours");
  assert.equal(gates.gate("torque:y", AT).gate, "unknown");
});

test("a number is read bare or with its own unit, and everything else is the server's", () => {
  const band = { inputs: ["value"], low: 48, high: 52, unit: "V", measures: "polarity" };
  const say = (value) => judged([band], { value }, "2026-11-27");
  assert.deepEqual(["48", "52", "50 V", "+50.0V"].map(say), ["good", "good", "good", "good"]);
  assert.deepEqual(["47.99", "52.01", "-50"].map(say), ["bad", "bad", "bad"]);
  assert.deepEqual(["50,1", "0.05 kV", "OL", "", "fifty"].map(say), ["unsure", "unsure", "unsure", "unsure", "unsure"]);
});

test("a tool counts to the last day of its calibration", () => {
  const term = { inputs: ["tool"], tools: { "TW-1": "2026-11-27" }, measures: "never negative" };
  assert.equal(judged([term], { tool: "TW-1" }, "2026-11-27"), "good");
  assert.equal(judged([term], { tool: "TW-1" }, "2026-11-28"), "bad");
  assert.equal(judged([term], { tool: "other" }, "2026-11-27"), "unsure");
  assert.equal(judged([{ ...term, is_optional: true }], {}, "2026-11-27"), "good");
});

test("an address names the house and the act", () => {
  assert.deepEqual(aimOf("/jobs/d1/records/torque/bat.one%2Fplus"), { job: "d1", act: "torque:bat.one/plus" });
  assert.equal(aimOf("/jobs/d1/photos/torque/x"), null);
});

const sent = (id, name, more = {}) => ({ id, action: "/jobs/d1/records/ritual/" + name, fields: {}, at: AT, state: "waiting", ...more });
const HOUSE = given(act("ritual:a"), act("ritual:b", { needs: ["ritual:a"] }), act("ritual:c", { needs: ["ritual:b"] }));

test("a record that waits opens what comes next; one that was refused, and another house's, open nothing", () => {
  assert.deepEqual(verdictOf(HOUSE, [], sent("1", "a")), { isHeld: false, words: "" });
  assert.equal(verdictOf(HOUSE, [sent("1", "a")], sent("2", "b")).isHeld, false);
  assert.equal(verdictOf(HOUSE, [sent("1", "a", { state: "refused" })], sent("2", "b")).words, "it waits for: ritual:a");
  assert.equal(verdictOf(HOUSE, [sent("1", "a", { action: "/jobs/d2/records/ritual/a" })], sent("2", "b")).isHeld, true);
});

test("what the server has taken counts until the house is asked for again; without signal what is known stays known", async () => {
  let answer = { ok: true, headers: new Headers({ "X-Request-ID": "1" }), json: async () => HOUSE };
  const known = new Known(async () => {
    if (!answer) throw new TypeError("no signal");
    return answer;
  });
  assert.deepEqual(known.verdict([], sent("2", "b")), { isHeld: false, words: "" });
  await known.ask("d1");
  assert.equal(known.verdict([], sent("2", "b")).isHeld, true);
  known.taken(sent("1", "a"), AT + 60_000);
  assert.equal(known.verdict([], sent("2", "b")).isHeld, false);
  answer = null;
  await known.ask("d1");
  assert.equal(known.verdict([], sent("2", "b")).isHeld, false);
  // One that lay here for longer may have been out of its turn: nothing is known before the house is asked for again.
  known.taken(sent("2", "b"), AT + 60_001);
  assert.deepEqual(known.verdict([], sent("3", "c")), { isHeld: false, words: "" });
  answer = { ok: true, headers: new Headers({ "X-Request-ID": "1" }), json: async () => HOUSE };
  await known.ask("d1");
  answer = { ok: true, headers: new Headers(), json: async () => ({}) };
  await known.ask("d1");
  assert.equal(known.verdict([], sent("3", "c")).isHeld, true);
});
