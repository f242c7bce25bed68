// What the worker of the site answers, and what it leaves to the network.

import assert from "node:assert/strict";
import { test } from "node:test";

const heard = new Map();
globalThis.addEventListener = (name, done) => heard.set(name, done);
globalThis.location = { origin: "https://gumboot.test" };
globalThis.caches = { match: async () => "kept", open: async () => ({ match: async () => "shell" }) };

const { work } = await import("../../src/gumboot/web/static/js/phone/worker.js");
work({ mark: "m", files: [], shell: "/hand" });

function answered(path, { mode = "navigate", method = "GET", origin = "https://gumboot.test" } = {}) {
  let answer = null;
  heard.get("fetch")({ request: { url: origin + path, mode, method }, respondWith: (given) => (answer = given) });
  return answer;
}

test("a page falls back to the hand, a file of any size and a signing in do not", async () => {
  for (const path of ["/jobs/d1/wire", "/jobs/d1/hand", "/hand", "/"]) {
    globalThis.fetch = async () => {
      throw new Error("no signal");
    };
    assert.equal(await answered(path), "shell", path);
  }
  for (const path of ["/jobs/d1/download/pack.pdf", "/jobs/d1/download/template-inverter.pdf", "/sign-in", "/sign-out"]) assert.equal(answered(path), null, path);
});

test("what is shipped comes out of the cache, what is sent or another's is not touched", async () => {
  assert.equal(await answered("/static/m/app.css", { mode: "no-cors" }), "kept");
  assert.equal(answered("/jobs/d1/wire", { method: "POST" }), null);
  assert.equal(answered("/api/jobs/d1/acts", { mode: "cors" }), null);
  assert.equal(answered("/static/m/app.css", { origin: "https://other.test" }), null);
});
