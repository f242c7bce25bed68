// One record on its way: what is sent with it, and what every failure becomes.
import assert from "node:assert/strict";
import { test } from "node:test";

import { bodyOf, sendOne } from "../../src/gumboot/web/static/js/phone/sending.js";

const ITEM = { id: "r-1", action: "/jobs/x/records/torque/lug", fields: { tug: "held", csrf: "old" }, who: "ivo", at: 1000 };
const PAGE = { csrf: "token", device: "phone 1", who: "ivo" };

const answering = (more) => async () => ({
  type: "basic",
  status: 200,
  headers: new Headers({ "X-Request-ID": "1", "content-type": "application/json" }),
  text: async () => "{}",
  ...more,
});

test("a record carries its doer, its id, its age and the token of now", () => {
  const body = bodyOf(ITEM, PAGE, 61_000);
  assert.deepEqual(Object.fromEntries(body), { tug: "held", csrf: "token", record_id: "r-1", doer: "ivo", device: "phone 1", age_s: "60", clock_ms: "61000" });
});

test("a record says under which plan it was made, where its page told", () => {
  assert.equal(bodyOf({ ...ITEM, under: "7" }, PAGE, 61_000).get("under"), "7");
  assert.equal(bodyOf({ ...ITEM, under: "" }, PAGE, 61_000).has("under"), false);
});

test("an answer of ours is told from another's", async () => {
  assert.deepEqual(await sendOne(ITEM, PAGE, { fetch: answering() }), { status: 200, ours: true, kind: "application/json", text: "{}", told: {}, asks: false });
  const foreign = await sendOne(ITEM, PAGE, { fetch: answering({ headers: new Headers() }) });
  assert.deepEqual([foreign.status, foreign.ours, foreign.kind], [200, false, ""]);
});

test("being led to another page is a session that is over", async () => {
  const led = await sendOne(ITEM, PAGE, { fetch: answering({ type: "opaqueredirect", status: 0 }) });
  assert.equal(led.status, 401);
});

test("no signal and no answer are told apart and throw nothing", async () => {
  const none = await sendOne(ITEM, PAGE, {
    fetch: async () => {
      throw new TypeError("failed to fetch");
    },
  });
  assert.deepEqual([none.status, none.reason], [0, "no signal"]);
  const late = await sendOne(ITEM, PAGE, {
    fetch: async () => {
      throw new DOMException("stopped", "AbortError");
    },
  });
  assert.equal(late.reason, "no answer within 8 s");
});

test("a record is sent as one, to its own address, without following", async () => {
  let asked = null;
  await sendOne(ITEM, PAGE, {
    fetch: async (address, options) => {
      asked = { address, ...options };
      return answering()();
    },
  });
  assert.equal(asked.address, ITEM.action);
  assert.equal(asked.redirect, "manual");
  assert.deepEqual(asked.headers, { Accept: "application/json", "X-Record": "1" });
});

test("what a phone knew of, that it was meant, and its own name go along", () => {
  const body = bodyOf({ ...ITEM, knew: "", sure: true, device: "phone of ivo" }, PAGE, 61_000);
  assert.deepEqual([body.get("knew"), body.get("sure"), body.get("device")], ["", "yes", "phone of ivo"]);
  assert.equal(bodyOf(ITEM, PAGE, 61_000).has("knew"), false);
});

test("a phone that knows how far its clock is off says when it was done, by the server's", () => {
  assert.equal(bodyOf(ITEM, { ...PAGE, skew: 250.4 }, 61_000).get("done_ms"), "750");
  assert.equal(bodyOf(ITEM, PAGE, 61_000).has("done_ms"), false);
});

test("a picture goes as a file beside what every record says", () => {
  const body = bodyOf({ ...ITEM, fields: {} }, PAGE, 61_000, new Blob(["x"]));
  assert.equal(body.get("record_id"), "r-1");
  assert.equal(body.get("file").name, "picture.jpg");
});
