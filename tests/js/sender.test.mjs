// One sender: in order, each once, what is refused blocks nothing, what gets no answer waits, and a new session is asked for its token.
import assert from "node:assert/strict";
import { test } from "node:test";

import { Items } from "../../src/gumboot/web/static/js/phone/items.js";
import { hasMoved } from "../../src/gumboot/web/static/js/phone/person.js";
import { Sender } from "../../src/gumboot/web/static/js/phone/sender.js";
import { ageOf, lineOf, reasonOf, settled, stripWords } from "../../src/gumboot/web/static/js/phone/settled.js";
import { MemoryStore } from "../../src/gumboot/web/static/js/phone/store.js";

const OK = { status: 200, ours: true, told: { ok: true, defects: [] } };
const item = (id, at, more = {}) => ({ id, kind: "record", action: "/a", fields: {}, who: "ivo", at, from: 0, title: id, state: "waiting", ...more });

async function sending(answers, { renew = null } = {}) {
  const store = new MemoryStore();
  const me = { who: "ivo", key: null, csrf: "token" };
  const items = new Items(async () => me, async () => store);
  const sent = [];
  const send = async (one, page) => {
    sent.push([one.id, page.csrf]);
    const answer = answers[one.id] ?? OK;
    return typeof answer === "function" ? answer(page) : answer;
  };
  const sender = new Sender({ items, me: async () => me, device: "phone", send, renew, clock: () => 50_000 });
  return { items, sender, sent };
}

const states = async (items) => Object.fromEntries((await items.all()).map((one) => [one.id, one.state]));

test("everything leaves once, the oldest first", async () => {
  const { items, sender, sent } = await sending({});
  for (const one of [item("b", 2), item("a", 1), item("c", 3)]) await items.put(one);
  await Promise.all([sender.run(), sender.run()]);
  assert.deepEqual(sent.map(([id]) => id), ["a", "b", "c"]);
  await sender.run();
  assert.equal(sent.length, 3);
});

test("who asks while it runs, as signal is back, gets one more run", async () => {
  let tries = 0;
  const answer = () => (tries++ ? OK : { status: 0, ours: false, reason: "no signal" });
  const { items, sender } = await sending({ a: answer });
  await items.put(item("a", 1));
  const first = sender.run();
  sender.run();
  await first;
  assert.deepEqual([await states(items), tries], [{ a: "sent" }, 2]);
});

test("one that is refused holds up nothing behind it, and keeps its reason", async () => {
  const { items, sender } = await sending({ a: { status: 404, ours: true, told: { detail: "no act of this plan any more" } } });
  for (const one of [item("a", 1), item("b", 2)]) await items.put(one);
  await sender.run();
  assert.deepEqual(await states(items), { a: "refused", b: "sent" });
  assert.match((await items.get("a")).reason, /no act/);
});

test("a signature goes under the head that its signer saw, and what left this phone since; another's record between is not passed over", async () => {
  const heads = [];
  const link = (before, head) => ({ status: 200, ours: true, told: { defects: [], before, head } });
  for (const [before, wanted] of [["h0", "h2"], ["other", "h1"]]) {
    const { items, sender } = await sending({ a: link("h0", "h1"), b: link(before === "h0" ? "h1" : before, "h2") });
    const { send } = sender;
    sender.send = async (one, page, more) => {
      if (one.id === "sign") heads.push([one.fields.head, wanted]);
      return send(one, page, more);
    };
    for (const one of [item("a", 1, { job: "x" }), item("b", 2, { job: "x" }), item("sign", 3, { job: "x", fields: { head: "h0", number: "L-7" } })]) await items.put(one);
    await sender.run();
  }
  for (const [found, wanted] of heads) assert.equal(found, wanted);
  assert.equal(heads.length, 2);
});

test("without an answer the rest waits as it is", async () => {
  const { items, sender, sent } = await sending({ a: { status: 0, ours: false, reason: "no signal" } });
  for (const one of [item("a", 1), item("b", 2)]) await items.put(one);
  await sender.run();
  assert.deepEqual(await states(items), { a: "waiting", b: "waiting" });
  assert.equal(sent.length, 1);
});

test("a session that is over keeps everything, and says who has to sign in", async () => {
  const { items, sender } = await sending({ a: { status: 401, ours: true } });
  await items.put(item("a", 1));
  await sender.run();
  assert.deepEqual(await states(items), { a: "sign-in" });
  assert.match((await items.get("a")).reason, /sign in again/);
});

test("a token of an earlier session is renewed before anybody is troubled", async () => {
  const answer = (page) => (page.csrf === "newer" ? OK : { status: 403, ours: true, told: { detail: "older than your sign-in" } });
  const { items, sender, sent } = await sending({ a: answer }, { renew: async () => ({ who: "ivo", csrf: "newer" }) });
  await items.put(item("a", 1));
  await sender.run();
  assert.deepEqual(await states(items), { a: "sent" });
  assert.deepEqual(sent.map(([, csrf]) => csrf), ["token", "newer"]);
});

test("what is not theirs to do stays refused: another token changes nothing of that", async () => {
  const no = { status: 403, ours: true, told: { detail: "you are apprentice" } };
  const { items, sender, sent } = await sending({ a: no }, { renew: async () => ({ who: "ivo", csrf: "token" }) });
  await items.put(item("a", 1));
  await sender.run();
  assert.deepEqual([await states(items), sent.length], [{ a: "refused" }, 1]);
});

test("where another has signed in meanwhile it waits for its doer, and nobody is troubled", async () => {
  const no = { status: 403, ours: true, told: { detail: "older than your sign-in" } };
  const { items, sender, sent } = await sending({ a: no }, { renew: async () => ({ who: "lena", csrf: "hers" }) });
  await items.put(item("a", 1));
  await sender.run();
  assert.deepEqual([await states(items), sent.length], [{ a: "sign-in" }, 1]);
  assert.match((await items.get("a")).reason, /until ivo signs in/);
});

test("what a page sends itself is not sent beside it", async () => {
  const { items, sender, sent } = await sending({});
  await items.put(item("a", 1));
  sender.busy.add("a");
  await sender.run();
  assert.equal(sent.length, 0);
});

test("only an answer of our own server takes a record off the list", () => {
  assert.equal(settled(OK).kept, true);
  assert.deepEqual(settled({ status: 200, ours: false }), { kept: false, state: "waiting" });
  for (const status of [0, 429, 500, 502, 503, 504]) assert.equal(settled({ status, ours: true }).state, "waiting", String(status));
  for (const status of [400, 403, 404, 409, 413, 422]) assert.equal(settled({ status, ours: true }).state, "refused", String(status));
  // What stands between, such as a hotspot's sign-in, refuses nothing of ours.
  for (const status of [403, 404]) assert.equal(settled({ status, ours: false }).state, "waiting", String(status));
  assert.equal(settled({ status: 401, ours: true }).state, "sign-in");
});

test("the reason is the server's own, or says what happened", () => {
  assert.equal(reasonOf({ status: 422, told: { detail: "Held by it." } }), "Held by it.");
  assert.equal(reasonOf({ status: 502, told: null }), "the server answered 502");
  assert.equal(reasonOf({ status: 401 }), "your session is over: sign in again");
  assert.equal(reasonOf({ status: 0, reason: "no signal" }), "no signal");
});

test("the strip counts what waits, who is needed, and how full the phone is", () => {
  const mine = (id, state) => ({ ...item(id, 1), state, isMine: true });
  assert.equal(stripWords([]), "");
  assert.equal(stripWords([mine("a", "sent")]), "");
  assert.equal(stripWords([], { offline: true }), "No signal");
  assert.equal(stripWords([mine("a", "waiting"), mine("b", "refused")], { offline: true }), "No signal · 2 kept · 1 needs you");
  assert.equal(stripWords([mine("a", "refused"), mine("b", "refused")]), "2 kept · 2 need you");
  assert.equal(stripWords([{ ...mine("a", "refused"), isMine: false }]), "1 kept");
  assert.equal(stripWords([mine("a", "sign-in")], { isOver: true }), "1 kept · sign in to send");
  assert.equal(stripWords([], { full: 0.8 }), "phone 80 % full");
  assert.equal(stripWords([], { full: 0.79 }), "");
});

test("a line says whose a record is and why it is still here", () => {
  const time = () => "12:00";
  assert.equal(lineOf({ ...item("a", 1), reason: "no signal" }, "ivo", time).told, "ivo, 12:00: no signal");
  assert.equal(lineOf(item("a", 1), "lena", time).told, "ivo, 12:00: waits until ivo signs in here");
  assert.equal(lineOf(item("a", 0, { who: "" }), "ivo", time).told, "nobody named, time unknown");
  assert.equal(lineOf(item("a", 1, { state: "refused" }), "ivo", time).needs, true);
  assert.equal(lineOf(item("a", 1, { state: "refused" }), "lena", time).needs, false);
});

test("the age of a record is to the thousandth of a second and never negative", () => {
  assert.equal(ageOf({ at: 1000 }, 61_499), 60.499);
  assert.equal(ageOf({ at: 9000 }, 1000), 0);
  assert.equal(ageOf({ at: 0 }, 1000), 0);
});

test("a clock has moved when it is further off than both measurements can be wrong", () => {
  const measured = { skew: 100, slack: 300 };
  assert.equal(hasMoved(null, measured), true);
  assert.equal(hasMoved({ skew: undefined }, measured), true);
  assert.equal(hasMoved(measured, { skew: 4900, slack: 2600 }), false);
  assert.equal(hasMoved(measured, { skew: 5100, slack: 2600 }), true);
});
