// What waits on a device: kept in order, sent under its doer's name, never lost to an answer that is not the server's.
import assert from "node:assert/strict";
import { test } from "node:test";

import { QUEUE, Queue, ageOf, freshId, lineOf, reasonOf, settled, stripWords } from "../../src/gumboot/web/static/js/queue.js";

class Store {
  constructor(room = Infinity) {
    this.room = room;
    this.rows = new Map();
  }

  getItem(key) {
    return this.rows.get(key) ?? null;
  }

  setItem(key, text) {
    if (text.length > this.room) throw new Error("full");
    this.rows.set(key, text);
  }
}

const item = (id, more = {}) => ({ id, action: "/a", fields: { tug: "held" }, who: "ivo", at: 1000, title: id, state: "waiting", reason: "", ...more });

test("what is put stands in order, once, and is dropped by its id", () => {
  const queue = new Queue(new Store());
  queue.put(item("a"));
  queue.put(item("b"));
  queue.put(item("a", { title: "again" }));
  assert.deepEqual(
    queue.all().map((x) => x.title),
    ["b", "again"],
  );
  queue.drop("b");
  assert.deepEqual(
    queue.all().map((x) => x.id),
    ["a"],
  );
});

test("a full store says so and keeps what it had", () => {
  const store = new Store(400);
  const queue = new Queue(store);
  assert.equal(queue.put(item("a")), true);
  assert.equal(queue.put(item("b", { fields: { note: "x".repeat(400) } })), false);
  assert.deepEqual(
    queue.all().map((x) => x.id),
    ["a"],
  );
});

test("a store that cannot be read holds nothing and breaks nothing", () => {
  const store = new Store();
  store.setItem(QUEUE, "{not json");
  assert.deepEqual(new Queue(store).all(), []);
});

test("what an earlier version kept has no doer, and waits for somebody to say that it is theirs", () => {
  const store = new Store();
  store.setItem(QUEUE, JSON.stringify([{ action: "/old", fields: { record_id: "old-1", tug: "held" } }]));
  const queue = new Queue(store);
  const [old] = queue.all();
  assert.deepEqual([old.id, old.who, old.at, old.state], ["old-1", "", 0, "refused"]);
  assert.deepEqual(queue.due("ivo", new Set()), []);
  queue.again("old-1", "ivo", 5000);
  assert.deepEqual(
    queue.due("ivo", new Set()).map((x) => [x.id, x.at]),
    [["old-1", 5000]],
  );
});

test("only one's own are sent, none that needs somebody, none that is on its way", () => {
  const queue = new Queue(new Store());
  for (const one of [item("mine"), item("lenas", { who: "lena" }), item("refused", { state: "refused" }), item("going")]) queue.put(one);
  assert.deepEqual(
    queue.due("ivo", new Set(["going"])).map((x) => x.id),
    ["mine"],
  );
  assert.deepEqual(queue.due("", new Set()), []);
});

test("a record that is sent again keeps its doer and its time", () => {
  const queue = new Queue(new Store());
  queue.put(item("a", { state: "refused" }));
  queue.again("a", "lena", 9000);
  assert.deepEqual(
    queue.all().map((x) => [x.who, x.at, x.state]),
    [["ivo", 1000, "waiting"]],
  );
});

test("only an answer of our own server takes a record off the list", () => {
  assert.deepEqual(settled({ status: 200, ours: true }), { kept: true, state: "" });
  assert.deepEqual(settled({ status: 200, ours: false }), { kept: false, state: "waiting" });
  for (const status of [0, 429, 500, 502, 503, 504]) assert.equal(settled({ status, ours: true }).state, "waiting", String(status));
  for (const status of [400, 403, 404, 409, 413, 422]) assert.equal(settled({ status, ours: true }).state, "refused", String(status));
  assert.equal(settled({ status: 401, ours: true }).state, "sign-in");
});

test("the reason is the server's own, or says what happened", () => {
  assert.equal(reasonOf({ status: 422, text: JSON.stringify({ detail: "Held by it." }) }), "Held by it.");
  assert.equal(reasonOf({ status: 502, text: "<html>" }), "the server answered 502");
  assert.equal(reasonOf({ status: 500, text: "{}" }), "the server answered 500");
  assert.equal(reasonOf({ status: 401, text: "" }), "your session is over: sign in again");
  assert.equal(reasonOf({ status: 0, text: "", reason: "no signal" }), "no signal");
});

test("the strip counts what waits and what needs somebody", () => {
  assert.equal(stripWords([], false), "");
  assert.equal(stripWords([], true), "No signal");
  assert.equal(stripWords([item("a"), item("b", { state: "refused" })], true), "No signal · 2 kept here, not sent yet · 1 needs you");
  const two = [item("a", { state: "refused" }), item("b", { state: "refused" })];
  assert.equal(stripWords(two, false), "2 kept here, not sent yet · 2 need you");
});

test("a line says whose a record is and why it is still here", () => {
  const time = () => "12:00";
  assert.equal(lineOf(item("a", { reason: "no signal" }), "ivo", time).told, "ivo, 12:00: no signal");
  assert.equal(lineOf(item("a"), "lena", time).told, "ivo, 12:00: waits until ivo signs in here");
  assert.equal(lineOf(item("a", { who: "", at: 0 }), "ivo", time).told, "nobody named, time unknown");
  assert.equal(lineOf(item("a", { state: "refused" }), "ivo", time).needs, true);
  assert.equal(lineOf(item("a", { state: "refused" }), "lena", time).needs, false);
});

test("the age of a record is whole seconds and never negative", () => {
  assert.equal(ageOf(item("a", { at: 1000 }), 61_499), 60);
  assert.equal(ageOf(item("a", { at: 9000 }), 1000), 0);
  assert.equal(ageOf(item("a", { at: 0 }), 1000), 0);
});

test("an id is fresh each time and of letters, digits and dashes, with or without the browser's own", () => {
  const made = [freshId(), freshId(), freshId({}), freshId({})];
  assert.equal(new Set(made).size, 4);
  for (const id of made) assert.match(id, /^[A-Za-z0-9-]{8,36}$/);
});
