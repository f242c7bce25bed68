// One record on its way to the server, and its answer; never an exception.

import { ageOf } from "./queue.js";

export const WAIT_MS = 8000;
export const NO_SIGNAL = "no signal";

// The body of a record: what was answered, who did it, on which device, under which plan, and how long ago.
export function bodyOf(item, page, now) {
  const body = new URLSearchParams(item.fields);
  body.set("csrf", page.csrf);
  body.set("record_id", item.id);
  body.set("doer", item.who);
  body.set("device", page.device);
  if (item.under) body.set("under", item.under);
  body.set("age_s", String(ageOf(item, now)));
  return body;
}

// An answer of our own server has a mark; one of a hotspot's sign-in page has none.
export async function send(item, page, headers, fetch = globalThis.fetch) {
  const stop = new AbortController();
  const clock = setTimeout(() => stop.abort(), WAIT_MS);
  try {
    const answer = await fetch(item.action, {
      method: "POST",
      body: bodyOf(item, page, Date.now()),
      headers: { ...headers, "X-Record": "1" },
      redirect: "manual",
      credentials: "same-origin",
      signal: stop.signal,
    });
    return {
      status: answer.type === "opaqueredirect" ? 401 : answer.status,
      ours: answer.headers.has("X-Request-ID"),
      kind: answer.headers.get("content-type") || "",
      text: await answer.text(),
    };
  } catch (failed) {
    return { status: 0, ours: false, kind: "", text: "", reason: failed.name === "AbortError" ? "no answer within 8 s" : NO_SIGNAL };
  } finally {
    clearTimeout(clock);
  }
}
