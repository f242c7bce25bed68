// What waits on a phone: kept before it is sent, closed to others, in order, and never lost to an answer that is not the server's.
import assert from "node:assert/strict";
import { test } from "node:test";

import { Items, currentOf, freshId } from "../../src/gumboot/web/static/js/phone/items.js";
import { keyFrom, sealText, unsealText } from "../../src/gumboot/web/static/js/phone/seal.js";
import { MemoryStore, fullness } from "../../src/gumboot/web/static/js/phone/store.js";

const keyOf = (letter) => keyFrom(Buffer.from(letter.repeat(32)).toString("base64"));
const item = (id, more = {}) => ({ id, kind: "record", action: "/jobs/x/records/torque/lug", fields: { tug: "held" }, who: "ivo", at: 1000, from: 0, title: id, state: "waiting", ...more });

async function phone(who = "ivo", letter = "i") {
  const store = new MemoryStore();
  store.isLasting = true;
  const here = { me: { who, key: await keyOf(letter) } };
  return { store, here, items: new Items(async () => here.me, async () => store) };
}

test("what is kept is closed: nothing of what it says can be read in the store", async () => {
  const { store, items } = await phone();
  await items.put(item("a", { title: "Battery main", fields: { note: "under the stairs" } }));
  const [kept] = await store.all("items");
  assert.deepEqual(Object.keys(kept).toSorted(), ["at", "from", "id", "kind", "sealed", "state", "who"]);
  assert.ok(!JSON.stringify([kept, Buffer.from(kept.sealed.data).toString("latin1")]).includes("stairs"));
  const [read] = await items.all();
  assert.deepEqual([read.title, read.fields.note, read.isMine], ["Battery main", "under the stairs", true]);
});

test("another person on the phone sees that something waits, and whose it is; it opens again for who made it", async () => {
  const { here, items } = await phone();
  await items.put(item("a"));
  const ivo = here.me;
  here.me = { who: "lena", key: await keyOf("l") };
  const [closed] = await items.all();
  assert.deepEqual([closed.who, closed.isMine, closed.title, closed.action], ["ivo", false, undefined, undefined]);
  assert.deepEqual(await items.due("lena", 5000), []);
  assert.equal(await items.mark("a", { state: "sent" }), null);
  here.me = ivo;
  assert.deepEqual((await items.due("ivo", 5000)).map((x) => x.id), ["a"]);
});

test("a key that does not fit opens nothing, and nothing is dropped for it", async () => {
  const { here, items } = await phone();
  await items.put(item("a"));
  here.me = { who: "ivo", key: await keyOf("x") };
  const [closed] = await items.all();
  assert.match(closed.reason, /another key/);
  assert.deepEqual(await items.due("ivo", 5000), []);
  here.me = { who: "ivo", key: await keyOf("i") };
  assert.equal((await items.all())[0].title, "a");
});

test("where a browser has no keys what waits is kept all the same", async () => {
  const { here, items, store } = await phone();
  here.me = { who: "ivo", key: null };
  await items.put(item("a"));
  assert.equal((await store.all("items"))[0].said.title, "a");
  assert.equal((await items.due("ivo", 5000)).length, 1);
});

test("they leave in the order in which they were done, pictures after all records, and none before its five seconds are over", async () => {
  const { items } = await phone();
  const blob = new Blob([new Uint8Array([1, 2, 3])]);
  await items.put(item("picture", { kind: "photo", at: 10, blob }));
  await items.put(item("second", { at: 30 }));
  await items.put(item("first", { at: 20 }));
  await items.put(item("just now", { at: 40, from: 9000 }));
  await items.put(item("refused", { at: 5, state: "refused" }));
  await items.put(item("sent", { at: 6, state: "sent" }));
  assert.deepEqual((await items.due("ivo", 5000)).map((x) => x.id), ["first", "second"]);
  assert.deepEqual((await items.due("ivo", 9000)).map((x) => x.id), ["first", "second", "just now", "picture"]);
  assert.deepEqual(new Uint8Array(await (await items.blobOf("picture")).arrayBuffer()), new Uint8Array([1, 2, 3]));
  await items.mark("picture", { state: "refused", reason: "too large" });
  assert.equal((await (await items.blobOf("picture")).arrayBuffer()).byteLength, 3);
});

test("what earlier versions kept is brought over once, and taken from there only when it is here", async () => {
  const { items, store } = await phone();
  const rows = new Map([["gumboot-kept", JSON.stringify([{ action: "/old", fields: { record_id: "old-00000001", tug: "held" } }, item("second-00000002")])]]);
  const storage = { getItem: (key) => rows.get(key) ?? null, removeItem: (key) => rows.delete(key) };
  assert.equal(await items.drain(storage), 2);
  assert.equal(rows.size, 0);
  assert.equal(await items.drain(storage), 0);
  const found = await items.all();
  assert.deepEqual(found.map((x) => [x.id, x.who, x.state]), [["old-00000001", "", "refused"], ["second-00000002", "ivo", "waiting"]]);
  store.isLasting = false;
  rows.set("gumboot-kept", JSON.stringify([item("third-00000003")]));
  assert.equal(await items.drain(storage), 0);
  assert.equal(rows.size, 1);
  rows.set("gumboot-kept", "{not json");
  assert.equal(await items.drain(storage), 0);
});

test("an item without a doer waits until somebody says that it is theirs", () => {
  const old = currentOf({ action: "/old", fields: { tug: "held" } });
  assert.deepEqual([old.who, old.at, old.state], ["", 0, "refused"]);
  assert.match(old.id, /^[A-Za-z0-9-]{8,36}$/);
  assert.equal(currentOf(item("a", { state: "sign-in" })).state, "waiting");
});

test("what was sent is shown for a day", async () => {
  const { items } = await phone();
  await items.put(item("old", { state: "sent", sentAt: 1000 }));
  await items.put(item("new", { state: "sent", sentAt: 86_400_000 }));
  await items.put(item("waits"));
  await items.tidy(86_402_000);
  assert.deepEqual((await items.all()).map((x) => x.id).toSorted(), ["new", "waits"]);
});

test("a text that is sealed small is the same text again", async () => {
  const key = await keyOf("k");
  const text = JSON.stringify({ words: "terminal ".repeat(5000), sign: "Ω −" });
  const sealed = await sealText(key, text);
  assert.ok(sealed.data.byteLength < text.length / 20);
  assert.equal(await unsealText(key, sealed), text);
});

test("how full a phone is, where it says so", async () => {
  assert.equal(await fullness({ estimate: async () => ({ usage: 80, quota: 100 }) }), 0.8);
  assert.equal(await fullness({ estimate: async () => ({}) }), 0);
  assert.equal(await fullness(undefined), 0);
});

test("an id is fresh each time and of letters, digits and dashes, with or without the browser's own", () => {
  const made = [freshId(), freshId(), freshId({}), freshId({})];
  assert.equal(new Set(made).size, 4);
  for (const id of made) assert.match(id, /^[A-Za-z0-9-]{8,36}$/);
});
