// Torque hints, keys, the view box of a drawing, and the list of sums: all that can be worked out without a page.
import assert from "node:assert/strict";
import { test } from "node:test";

import { MOST, withRow } from "../../src/gumboot/web/static/js/asked.js";
import { keyOf, nudged, sideOf, stationOfField } from "../../src/gumboot/web/static/js/keys.js";
import { NEWTON_METRES, torqueHint, typedNumber } from "../../src/gumboot/web/static/js/units.js";
import { boxAt, isWhole, moved, zoomed } from "../../src/gumboot/web/static/js/zoom.js";

test("units of torque follow from their definition", () => {
  // NIST SP 811 (2008), appendix B.8: 1 lbf in = 1.129 848 E-01 N m, 1 lbf ft = 1.355 818 E+00 N m.
  assert.ok(Math.abs(NEWTON_METRES["lbf in"] - 0.1129848) < 5e-8);
  assert.ok(Math.abs(NEWTON_METRES["lbf ft"] - 1.355818) < 5e-7);
});

test("a typed torque is held against its band, its ends among it", () => {
  assert.deepEqual(torqueHint("10", "N m", 9.9, 12.1), { words: "in band", tone: "ok" });
  assert.equal(torqueHint("9.9", "N m", 9.9, 12.1).words, "in band");
  assert.equal(torqueHint("12.1", "N m", 9.9, 12.1).words, "in band");
  assert.equal(torqueHint("9.89", "N m", 9.9, 12.1).words, "too low");
  assert.equal(torqueHint("12.11", "N m", 9.9, 12.1).words, "too high");
  assert.equal(torqueHint("10,5", "N m", 9.9, 12.1).words, "in band");
});

test("a value that would be right in another unit says so", () => {
  assert.equal(torqueHint("97", "N m", 9.9, 12.1).words, "too high; did you read lbf in?");
  assert.equal(torqueHint("11", "lbf in", 9.9, 12.1).words, "too low; did you read N m?");
  assert.deepEqual(torqueHint("", "N m", 9, 12), { words: "", tone: "" });
  assert.deepEqual(torqueHint("ten", "N m", 9, 12), { words: "", tone: "" });
  assert.ok(Number.isNaN(typedNumber("  ")));
});

test("g and a digit go to a station; a letter between ends it", () => {
  assert.deepEqual(keyOf("g", ""), { act: null, leading: "g" });
  assert.deepEqual(keyOf("7", "g"), { act: { name: "station", digit: 7 }, leading: "" });
  assert.deepEqual(keyOf("7", ""), { act: null, leading: "" });
  assert.deepEqual(keyOf("z", "g"), { act: { name: "undo" }, leading: "" });
});

test("a field of the job is led to where it stands", () => {
  assert.equal(stationOfField("site.altitude_m"), "survey");
  assert.equal(stationOfField("banks.bank.units.bat-1.dip_address"), "links");
  assert.equal(stationOfField("banks.bank.inverter_protocol"), "links");
  assert.equal(stationOfField("banks.bank.cabling"), "bank");
  assert.equal(stationOfField("runs.grid.length_m"), "circuits");
  assert.equal(stationOfField("something.else"), "survey");
});

test("a length is nudged by one, by ten with shift, and never made of what is no number", () => {
  assert.equal(nudged("1200", "ArrowUp", false), "1201");
  assert.equal(nudged("1200.5", "ArrowDown", true), "1190.5");
  for (const [text, key] of [["", "ArrowUp"], ["wide", "ArrowUp"], ["12", "Enter"]]) assert.equal(nudged(text, key, false), null);
});

test("an arrow points at a side, Enter and Space change it", () => {
  assert.deepEqual(["ArrowRight", "ArrowLeft", "Enter", " ", "x"].map((key) => sideOf(key, "house")), ["backed", "house", "backed", "backed", ""]);
  assert.equal(sideOf("Enter", "backed"), "house");
});

const HOME = [0, 0, 600, 300];

test("a drawing is never lost: the box stays within it, at most six times as close", () => {
  assert.deepEqual(boxAt(HOME, -50, 900, 600), HOME);
  assert.deepEqual(boxAt(HOME, 0, 0, 1), [0, 0, 100, 50]);
  for (let n = 0, box = HOME; n < 40; n += 1) {
    box = n % 3 ? zoomed(HOME, box, n % 2 ? 1.4 : 1 / 1.2) : moved(HOME, box, (n % 5) - 2, (n % 7) - 3);
    assert.ok(box[0] >= 0 && box[1] >= 0 && box[0] + box[2] <= 600.001 && box[1] + box[3] <= 300.001, box.join(" "));
    assert.ok(Math.abs(box[2] / box[3] - 2) < 1e-9);
  }
});

test("closer and farther about the middle give back the same box", () => {
  const near = boxAt(HOME, 150, 75, 300);
  const back = zoomed(HOME, zoomed(HOME, near, 1.25), 0.8);
  back.forEach((value, n) => assert.ok(Math.abs(value - near[n]) < 1e-9));
  assert.ok(isWhole(HOME, HOME));
  assert.ok(!isWhole(HOME, near));
});

test("a sum that is typed stands once, a sum that is asked again moves up, the list has an end", () => {
  const row = (href) => ({ title: href, answer: "1", href });
  assert.deepEqual(withRow([row("?a=1")], row("?a=12"), "?a=1").map((r) => r.href), ["?a=12"]);
  assert.deepEqual(withRow([row("?b"), row("?a")], row("?a"), "").map((r) => r.href), ["?a", "?b"]);
  const many = Array.from({ length: 30 }, (_, n) => row("?" + n));
  assert.equal(withRow(many, row("?x"), "").length, MOST);
});
