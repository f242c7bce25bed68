// Houses taken along: closed under their person's key, read again, also as an earlier version kept them; a decision of the plan and its answer.

import assert from "node:assert/strict";
import test from "node:test";

import { Bags, bagWords, upgraded } from "../../src/gumboot/web/static/js/phone/bag.js";
import { keyFrom } from "../../src/gumboot/web/static/js/phone/seal.js";
import { MemoryStore } from "../../src/gumboot/web/static/js/phone/store.js";
import { decide } from "../../src/gumboot/web/static/js/phone/deciding.js";

const KEY = "MDEyMzQ1Njc4OWFiY2RlZjAxMjM0NTY3ODlhYmNkZWY=";
const house = (format, more = {}) => ({ acts: { acts: [] }, heardAt: 5, bag: { format, tag: "t", job: { id: "j1", title: "Kiln" }, holds: { terminations: 2 }, ...more } });

async function bags(who = "ivo", store = new MemoryStore()) {
  const me = { who, key: await keyFrom(KEY) };
  return { store, bags: new Bags(async () => me, { open: async () => store, clock: () => 7 }) };
}

test("a house that is kept is closed, and the same again when it is read", async () => {
  const { store, bags: mine } = await bags();
  const told = await mine.keep(house(2, { plan: { editors: [], stations: {} } }));
  assert.equal(told.takenAt, 7);
  assert.doesNotMatch(JSON.stringify([...store.places.get("bags").values()]), /Kiln|j1/);
  const read = await mine.house("j1");
  assert.equal(read.bag.job.title, "Kiln");
  assert.deepEqual((await mine.all()).map((each) => each.title), ["Kiln"]);
  const { bags: others } = await bags("lena", store);
  assert.equal(await others.house("j1"), null);
  await mine.leave("j1");
  assert.equal(await mine.house("j1"), null);
});

test("a house of an earlier version is read, and fetched whole where there is signal; one of a later version is not guessed at", async () => {
  const { bags: mine } = await bags();
  await mine.keep(house(1));
  const read = await mine.house("j1");
  assert.deepEqual([read.bag.format, read.bag.tag, read.bag.plan.stations], [2, "", {}]);
  assert.equal(upgraded(house(3)), null);
});

test("what is here already is not fetched again, and an answer of another than the server is none", async () => {
  const { bags: mine } = await bags();
  const asked = [];
  mine.fetch = async (address) => {
    asked.push(address);
    const none = address.includes("bag?");
    return new Response(none ? null : '{"acts": []}', { status: none ? 204 : 200, headers: { "X-Request-ID": "1" } });
  };
  const known = house(2);
  assert.equal((await mine.heard("j1", known)).bag, known.bag);
  assert.deepEqual(asked, ["/api/jobs/j1/acts", "/api/jobs/j1/bag?tag=t"]);
  mine.fetch = async () => new Response("<html>", { status: 200 });
  await assert.rejects(mine.heard("j1", known));
  mine.fetch = async () => new Response('{"detail": "The job cannot be read."}', { status: 422, headers: { "X-Request-ID": "1" } });
  await assert.rejects(mine.heard("j1", known), { status: 422, words: "The job cannot be read." });
  mine.fetch = async () => new Response(JSON.stringify(house(3).bag), { status: 200, headers: { "X-Request-ID": "1" } });
  await assert.rejects(mine.heard("j1"), { status: 426 });
});

test("what a house holds is told with its size and its hours", () => {
  const told = { holds: { terminations: 54, rituals: 1 }, size: 1640000, takenAt: 1, heardAt: 2 };
  assert.equal(bagWords(told, (at) => "0" + at), "54 terminations, 1 ritual · taken 01, heard 02 · 1.6 MB");
  assert.match(bagWords({ ...told, size: 67300 }, String), / · 67 kB$/);
});

test("a decision goes with the revision it was read from; its answer, a conflict, another's page and no signal are told apart", async () => {
  const sent = [];
  const answering = (status, body, ours = true) => async (address, asked) => {
    sent.push([address, asked.method, JSON.parse(asked.body), asked.headers["X-CSRF-Token"]]);
    return new Response(body, { status, headers: ours ? { "X-Request-ID": "1" } : {} });
  };
  const one = { path: "site.busbar_a", typed: "100", base: 4, csrf: "c" };
  assert.deepEqual(await decide("j1", one, answering(200, '{"revision": 5}')), { status: 200, revision: 5, words: "", by: "" });
  assert.deepEqual(sent[0], ["/api/jobs/j1", "PATCH", { path: "site.busbar_a", typed: "100", base: 4 }, "c"]);
  const clash = await decide("j1", one, answering(409, '{"detail": "changed", "by": "Lena"}'));
  assert.deepEqual([clash.status, clash.words, clash.by], [409, "changed", "Lena"]);
  assert.equal((await decide("j1", one, answering(200, "{}", false))).status, 0);
  const broken = async () => {
    throw new TypeError("no network");
  };
  assert.deepEqual(await decide("j1", one, broken), { status: 0, words: "no signal" });
});
