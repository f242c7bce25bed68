// The hand: what is next, what is answered with which tap, what the pad shows, where a picture is looked at.
import assert from "node:assert/strict";
import { test } from "node:test";

import { packedFields, packedWords } from "../../src/gumboot/web/static/js/hand/packing.js";
import { against, answersOf, padOf, saidWords, toolAsked } from "../../src/gumboot/web/static/js/hand/answers.js";
import { House } from "../../src/gumboot/web/static/js/hand/house.js";
import { keepTool, keptTool } from "../../src/gumboot/web/static/js/hand/kept.js";
import { partOf } from "../../src/gumboot/web/static/js/hand/look.js";
import { isWhole, pressed } from "../../src/gumboot/web/static/js/hand/pad.js";
import { strokesOf } from "../../src/gumboot/web/static/js/hand/tally.js";
import { handOf } from "../../src/gumboot/web/static/js/posture.js";

const LASTS = { hours: null, moves: false, landed: [], firmware: false, below: null };
const CREW = ["installer", "licence holder"];
const act = (id, more = {}) => ({
  id, kind: "look", station: "wire", title: id, band: {}, inputs: [], needs: [], heeds: [], lasts: LASTS, hours_after: 0, moves: [], undoes: [], who: CREW,
  makes_safe: false, is_derived: false, is_optional: false, state: "open", why: "", last: {}, terms: [{ inputs: ["answer"], equals: ["yes"], measures: "never negative" }], ...more,
});
const YES = [{ name: "answer", takes: "choice", choices: ["yes", "no"], required: true }];
const known = (acts, more = {}, role = "installer", plan = {}) => ({
  heardAt: 1000,
  acts: { acts, since: { moved: null, landed: {}, undone: {}, updated: null }, person: { name: "ivo", role }, said: {}, holdings: {}, stations: {}, ...more },
  bag: {
    job: { id: "x", title: "X" }, revision: 3, plan: { editors: ["planner"], stations: plan },
    stations: [{ id: "wire", title: "Wire", leg: "Fit", acts: acts.filter((a) => a.station === "wire").map((a) => a.id) }, { id: "prove", title: "Prove", leg: "Start", acts: acts.filter((a) => a.station === "prove").map((a) => a.id) }],
    cards: Object.fromEntries(acts.map((a) => [a.id, { html: "", place: "box", look: {}, aim: {} }])),
  },
});
const item = (id, name, fields, more = {}) => ({
  id, kind: "record", state: "waiting", isMine: true, who: "ivo", at: 2000, fields, action: "/jobs/x/records/" + name.replace(":", "/"), ...more,
});
const three = () => [act("look:a", { inputs: YES }), act("look:b", { inputs: YES, needs: ["look:a"] }), act("look:c", { inputs: YES, station: "prove", needs: ["look:b"] })];

test("next is what is open and may be done, and what was recorded here moves it on", () => {
  assert.equal(new House(known(three()), [], 5000).next(), "look:a");
  const one = new House(known(three()), [item("r1", "look:a", { answer: "yes" })], 5000);
  assert.equal(one.next(), "look:b");
  assert.equal(one.isDone("look:a"), true);
  const two = new House(known(three()), [item("r1", "look:a", { answer: "yes" }), item("r2", "look:b", { answer: "yes" })], 5000);
  assert.equal(two.next("look:b", "wire"), "look:c");
});

test("what is not good stays next after the others, and what it opens stays held", () => {
  const house = new House(known(three()), [item("r1", "look:a", { answer: "no" })], 5000);
  assert.equal(house.state("look:a"), "failed");
  assert.match(house.held("look:b").words, /Held until: look:a/);
  assert.equal(house.next("look:a"), "look:a");
});

test("what was refused counts for nothing; what the server took after it was asked counts still", () => {
  assert.equal(new House(known(three()), [item("r1", "look:a", { answer: "yes" }, { state: "refused" })], 5000).next(), "look:a");
  const sent = { state: "sent", sentAt: 1500 };
  assert.equal(new House(known(three()), [item("r1", "look:a", { answer: "yes" }, sent)], 5000).next(), "look:b");
  const told = { state: "sent", sentAt: 900 };
  assert.equal(new House(known(three()), [item("r1", "look:a", { answer: "yes" }, told)], 5000).next(), "look:a");
});

test("another house's records and another person's say nothing here", () => {
  const other = item("r1", "look:a", { answer: "yes" }, { action: "/jobs/y/records/look/a" });
  assert.equal(new House(known(three()), [other, item("r2", "look:a", { answer: "yes" }, { isMine: false })], 5000).next(), "look:a");
});

test("a box that another has in hand is passed over", () => {
  const house = new House(known(three(), { holdings: { box: { name: "lena", display: "Lena" } } }), [], 5000);
  assert.equal(house.next(), "");
  assert.equal(house.view("look:a").others.display, "Lena");
});

test("what comes a day later is nobody's next before its hour", () => {
  const acts = [act("look:a", { inputs: YES, state: "good", last: { done_at: new Date(0).toISOString() } }), act("recheck:a", { kind: "recheck", inputs: YES, needs: ["look:a"], hours_after: 24 })];
  assert.equal(new House(known(acts), [], 3_600_000).next(), "");
  assert.equal(new House(known(acts), [], 25 * 3_600_000).next(), "recheck:a");
});

test("a licence holder clears a failed reading where it stands, an installer does not", () => {
  const acts = [act("check:v", { kind: "measurement", state: "failed" }), act("clear:v", { kind: "clearance", thing: "check:v", who: ["licence holder"] })];
  assert.equal(new House(known(acts, {}, "licence holder"), [], 5000).view("check:v").clearing, "clear:v");
  assert.equal(new House(known(acts), [], 5000).view("check:v").clearing, "");
});

const TORQUE = act("torque:lug", { kind: "torque", inputs: [{ name: "reached", takes: "quantity", unit: "N m", units: ["N m", "lbf in"] }, { name: "tool", takes: "tool", choices: ["torque tool"], required: true }, { name: "tug", takes: "choice", choices: ["held", "moved"] }] });
const AIM = { end: "lug", by: "maker", digits: "97", unit: "lbf in", could_not: ["could not be done", "snug only", "no tool"] };

test("a click is one answer: the value, the tool of the shift and the pull together", () => {
  const { hold, other, could, pad } = answersOf(TORQUE, { aim: AIM }, { tool: "TW-2" });
  assert.deepEqual(hold.fields, { reached: "97", unit: "lbf in", tool: "TW-2", tug: "held" });
  assert.equal(hold.words, "Clicked at 97 lbf in");
  assert.equal(other.fields.tug, "held");
  assert.deepEqual(could.map((x) => x.fields.could_not || x.fields.tug), ["moved", "could not be done", "snug only", "no tool"]);
  assert.deepEqual(could.map((x) => Boolean(x.asksWhy)), [false, true, false, false]);
  assert.deepEqual(pad.rows.map((row) => row.units), [["N m", "lbf in"]]);
  assert.deepEqual(toolAsked(TORQUE), { kinds: ["torque tool"], required: true });
});

test("a spring is pushed, pulled and pressed home; without a torque that is known nothing can be held", () => {
  const spring = { ...TORQUE, inputs: [{ name: "tug", takes: "choice", choices: ["held", "moved"] }, { name: "pressed", takes: "choice", choices: ["yes", "no"] }] };
  assert.deepEqual(answersOf(spring, { aim: { ...AIM, end: "spring" } }).hold.fields, { tug: "held", pressed: "yes" });
  assert.equal(answersOf({ ...TORQUE, inputs: [] }, { aim: { ...AIM, by: "unknown" } }).hold, null);
});

test("what the page showed goes along with every answer but with none that could not be given", () => {
  const seen = act("check:v", { kind: "measurement", inputs: [{ name: "cell_c", takes: "seen", stands: "25" }, { name: "value", takes: "quantity", unit: "V" }], band: { unit: "V", low: 1, high: 2 } });
  const found = answersOf(seen, { aim: { could_not: ["no tool"] } });
  assert.deepEqual([found.begins, found.hold, found.seen], ["pad", null, { cell_c: "25" }]);
  assert.deepEqual(found.could[0].fields, { could_not: "no tool" });
});

test("beyond the range is a key only where a reading may be beyond it; a sign only where one is read", () => {
  const reading = (band) => padOf(act("check:v", { kind: "measurement", inputs: [{ name: "value", takes: "quantity", unit: band.unit }], band }), { aim: {} });
  assert.deepEqual([reading({ unit: "Mohm", low: 1 }).over, reading({ unit: "V", low: 1, high: 2 }).over], [true, false]);
  assert.deepEqual([reading({ unit: "V", high: 2, measures: "polarity" }).signed, reading({ unit: "V", low: 0, high: 2 }).signed], [true, false]);
});

test("a setting is left as asked with one tap, and the device's other choices stand beside it", () => {
  const row = act("setting:type", { kind: "setting", inputs: [{ name: "value", takes: "text" }] });
  const found = answersOf(row, { aim: { asked: "split phase", choices: ["split phase", "single"], could_not: [] } });
  assert.deepEqual([found.hold.fields, found.choices], [{ value: "split phase" }, ["single"]]);
});

test("a setting that differs asks for its reason, and a licence holder agrees to it", () => {
  const row = act("setting:amps", { kind: "setting", inputs: [{ name: "value", takes: "text" }, { name: "reason", takes: "text" }] });
  const card = { aim: { asked: "120 A", unit: "A", could_not: [] } };
  const found = answersOf(row, card, { left: "100 A", agree: "r-1" });
  assert.deepEqual([found.why.fields, found.agree.fields], [{ value: "100 A" }, { record: "r-1" }]);
  const none = answersOf(row, card, {});
  assert.deepEqual([none.why, none.agree], [null, null]);
});

test("what speaks against a tool is said by its day and by what the card tells", () => {
  const tool = { id: "TD", until: "2026-02-28" };
  assert.deepEqual(against(tool, { against: { TD: ["not in its range"] } }, "2026-03-01"), ["calibration over since 2026-02-28", "not in its range"]);
  assert.deepEqual(against(tool, {}, "2026-02-28"), []);
});

test("what was answered is told in words", () => {
  assert.equal(saidWords(TORQUE, { reached: "97", unit: "lbf in", tug: "held" }), "97 lbf in, held the pull");
  assert.equal(saidWords(TORQUE, { could_not: "snug only" }), "snug only");
  assert.equal(saidWords(act("look:a", { inputs: YES }), { answer: "no" }), "no");
  assert.equal(saidWords(act("step:a"), {}), "done");
});

test("a tool is kept for the shift and asked for again after it", () => {
  const rows = new Map();
  const storage = { getItem: (key) => rows.get(key) ?? null, setItem: (key, text) => rows.set(key, text) };
  keepTool({ job: "x", kind: "meter", id: "MM-1" }, 1000, storage);
  assert.equal(keptTool({ job: "x", kind: "meter" }, 1000 + 13 * 3_600_000, storage), "MM-1");
  assert.equal(keptTool({ job: "x", kind: "meter" }, 1000 + 15 * 3_600_000, storage), "");
  assert.equal(keptTool({ job: "y", kind: "meter" }, 1000, storage), "");
});

test("the pad writes a number as an instrument shows it", () => {
  const typed = (...keys) => keys.reduce((text, key) => pressed(text, key), "");
  assert.equal(typed("5", "2", ".", "8"), "52.8");
  assert.equal(typed(".", "3"), "0.3");
  assert.equal(typed("0", "7"), "7");
  assert.equal(typed("1", ".", ".", "2"), "1.2");
  assert.equal(typed("4", "sign"), "-4");
  assert.equal(typed("4", "sign", "sign"), "4");
  assert.equal(typed("4", "OL", "del"), "");
  assert.equal(typed("OL", "5"), "5");
  assert.equal(typed("1", "2", "del"), "1");
  assert.equal(typed("1", "2", "clear"), "");
  assert.equal(typed(..."1234567890123456"), "123456789012");
  for (const [text, whole] of [["52.8", true], ["-4", true], ["OL", true], ["", false], ["-", false], ["4.", false]]) assert.equal(isWhole(text), whole, text);
});

test("a picture is looked at where the act is, and never beyond its edge", () => {
  assert.deepEqual(partOf([728, 400], [364, 200], 280, 0.5), [224, 130, 280, 140]);
  assert.deepEqual(partOf([728, 400], [10, 390], 280, 0.5), [0, 260, 280, 140]);
  const [x, y, w, h] = partOf([300, 100], [150, 50], 280, 1);
  assert.deepEqual([x, y, w, h].map(Math.round), [10, -90, 280, 280]);
});

test("a tally strikes every fifth across the four before it", () => {
  const strokes = strokesOf(7);
  assert.equal(strokes.length, 7);
  assert.equal(strokes[0][0], strokes[0][2]);
  assert.ok(strokes[4][0] < strokes[0][0] && strokes[4][2] >= strokes[3][0]);
  assert.ok(strokes[5][0] > strokes[3][0]);
});

test("a station and the card of an end have a place in the hand", () => {
  assert.equal(handOf("/jobs/d1/prove"), "/jobs/d1/hand#prove");
  assert.equal(handOf("/jobs/d1/wire/inverter.grid.l1.grid"), "/jobs/d1/hand#torque:inverter.grid.l1.grid");
  assert.equal(handOf("/rules"), "");
});

const sheet = (station, name, mark, more = {}) => ({ id: "sheet:" + station + ":" + name, title: name, says: "as planned", mark, cautions: 0, fields: [], look: {}, html: "", ...more });

test("of a station of the plan what is to mend or to answer is next, and the next station that asks follows it", () => {
  const plan = {
    strings: [sheet("strings", "s2", "held"), sheet("strings", "s1", "open"), sheet("strings", "s3", "clear", { cautions: 2 })],
    bank: [sheet("bank", "b", "clear")],
    wall: [sheet("wall", "w", "open")],
  };
  const house = new House(known([], {}, "planner", plan), [], 0);
  assert.equal(house.nextSheet("strings"), "sheet:strings:s2");
  assert.equal(house.nextSheet("bank"), "");
  assert.equal(house.nextOfPlan("bank"), "wall");
  assert.equal(house.nextOfPlan("wall"), "strings");
  assert.equal(house.sheet("sheet:strings:s1").title, "s1");
  assert.equal(house.sheet("sheet:strings:none"), undefined);
  const rows = house.rows("strings");
  assert.deepEqual(rows.map((row) => row.mark), ["held", "open", "part"]);
  assert.equal(rows[2].words, "2 cautions · as planned");
  assert.deepEqual(house.sheets("wire"), []);
});

test("what waits for the plan leads to what the plan still asks", () => {
  const acts = [act("plan:answered", { kind: "plan", station: "", is_derived: true, title: "the plan has its answers" }), act("look:a", { inputs: YES, needs: ["plan:answered"] })];
  const house = new House(known(acts, {}, "installer", { wall: [sheet("wall", "w", "open")] }), [], 0);
  assert.deepEqual([house.held("look:a").first, house.held("look:a").tone], ["sheet:wall:w", "stop"]);
  assert.equal(new House(known(acts), [], 0).held("look:a").first, null);
});

test("holes are drilled as marked with one hold, and how far the worst is off has its sign", () => {
  const holes = {
    kind: "hole",
    band: { unit: "mm", measures: "signed" },
    inputs: ["right", "up"].map((name) => ({ name, words: name, takes: "quantity", unit: "mm", units: ["mm", "in"], stands: "0" })),
    terms: [],
  };
  const { hold, other, pad } = answersOf(holes, { aim: { could_not: [] } });
  assert.deepEqual(hold.fields, { right: "0", up: "0", unit: "mm" });
  assert.equal(other.words, "Off its mark");
  assert.equal(pad.signed, true);
  assert.deepEqual(pad.rows.map((row) => [row.name, row.stands]), [["right", "0"], ["up", "0"]]);
  assert.equal(saidWords(holes, hold.fields), "as marked");
  assert.equal(saidWords(holes, { right: "-3", up: "0", unit: "mm" }), "-3 mm right");
});

test("a meter test asks on a screen for each switching, and of a core that was found odd alone", () => {
  const row = (name, group, more = {}) => ({ name, words: name.split("-")[1] + " shows", takes: "quantity", unit: "W", required: true, group, ...more });
  const screens = [["before", "Everything as found"], ["l1", "Load on L1 on, alone"], ["l2", "Load on L2 on, alone"]];
  const load = (leg) => row("load-" + leg, "Load on " + leg.toUpperCase() + " on, alone", { stands: "1500" });
  const inputs = (again) =>
    screens.flatMap(([when, group]) => [
      ...(when === "before" ? [] : [load(when)]),
      ...["CT1", "CT2"].map((channel) => row(when + "-" + channel, group, { required: !again || channel === again })),
    ]);
  const meter = (again) => ({ kind: "meter", band: { unit: "W" }, inputs: inputs(again), terms: null });
  const card = { aim: { could_not: ["no tool"] } };
  const first = answersOf(meter(""), card);
  assert.equal(first.begins, "pad");
  assert.deepEqual(first.pad.rows.map((each) => each.group).filter((group, at, all) => all.indexOf(group) === at), screens.map(([, group]) => group));
  assert.ok(first.pad.signed);
  const again = answersOf(meter("CT2"), card);
  assert.equal(again.begins, "main");
  assert.equal(again.other.words, "Test CT2 again");
  assert.deepEqual(again.pad.rows.filter((each) => each.isAsked && !each.stands).map((each) => each.name), ["before-CT2", "l1-CT2", "l2-CT2"]);
  // Where all are asked again too, what is to be done is read first.
  assert.equal(answersOf(meter(""), card, { failed: true }).other.words, "Test CT1 and CT2 again");
  assert.equal(saidWords(meter("CT2"), { "before-CT2": "1", "l1-CT2": "2", "l2-CT2": "3", "load-l1": "1500" }), "3 readings");
});

test("a load is held as a whole or ticked line by line, and what is not ticked is told as missing", () => {
  const line = (name, stands = "") => ({ name, words: "3 × " + name, takes: "tick", required: false, choices: ["yes"], stands });
  const load = (...lines) => ({ kind: "pack", band: {}, inputs: lines, terms: lines.map((each) => ({ inputs: [each.name], equals: ["yes"] })) });
  const card = { aim: { could_not: [] } };
  const whole = load(line("in-a"), line("in-b"), line("in-c"));
  const { hold, ticks } = answersOf(whole, card);
  assert.equal(hold.words, "All of it is in");
  assert.deepEqual(hold.fields, { "in-a": "yes", "in-b": "yes", "in-c": "yes" });
  assert.equal(saidWords(whole, hold.fields), "all 3 lines in");
  ticks[1].isIn = true;
  assert.deepEqual([packedWords(ticks).words, packedFields(ticks)], ["1 in, 2 not there", { "in-b": "yes" }]);
  assert.equal(saidWords(whole, packedFields(ticks)), "1 of 3 lines in");
  // What was ticked before stands ticked.
  assert.equal(answersOf(load(line("in-a", "yes"), line("in-b")), card).hold.words, "1 in, 1 not there");
});

test("anchors are clicked to their torque, and nobody pulls at them", () => {
  const anchors = { ...TORQUE, kind: "fixed", inputs: TORQUE.inputs.filter((each) => each.name !== "tug") };
  const { hold, other } = answersOf(anchors, { aim: AIM }, { tool: "TW-2" });
  assert.deepEqual(hold.fields, { reached: AIM.digits, unit: AIM.unit, tool: "TW-2" });
  assert.deepEqual(other.fields, { tool: "TW-2" });
  assert.equal(saidWords(anchors, hold.fields), AIM.digits + " " + AIM.unit);
});
