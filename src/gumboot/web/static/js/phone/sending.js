// One record or picture on its way to the server, and its answer; never an exception.

import { ageOf } from "./settled.js";
import { isOurs } from "../ours.js";

export const WAIT_MS = 8000;
const PHOTO_WAIT_MS = 40000;
export const NO_SIGNAL = "no signal";
const NO_ANSWER = "no answer within 8 s";

// What every record says beside what was answered: who did it, on which device, under which plan, how long ago, by which clock.
function carried(item, page, now) {
  const more = { csrf: page.csrf, record_id: item.id, doer: item.who, device: item.device || page.device, age_s: String(ageOf(item, now)), clock_ms: String(now) };
  if (page.skew !== undefined && item.at) more.done_ms = String(Math.round(item.at - page.skew));
  if (item.under) more.under = String(item.under);
  if (item.sure) more.sure = "yes";
  if (item.knew !== undefined) more.knew = item.knew;
  return more;
}

export function bodyOf(item, page, now, blob = null) {
  const body = blob ? new FormData() : new URLSearchParams();
  for (const [name, value] of Object.entries({ ...item.fields, ...carried(item, page, now) })) body.set(name, value);
  if (blob) body.set("file", blob, "picture.jpg");
  return body;
}

function dataOf(text, kind) {
  if (!kind.includes("json")) return null;
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

async function read(answer) {
  const kind = answer.headers.get("content-type") || "";
  const text = await answer.text();
  return {
    status: answer.type === "opaqueredirect" ? 401 : answer.status,
    ours: isOurs(answer),
    kind,
    text,
    told: dataOf(text, kind),
    asks: answer.headers.get("X-Asks") === "yes",
  };
}

export async function sendOne(item, page, { headers = {}, fetch = globalThis.fetch, blob = null, now = Date.now() } = {}) {
  const stop = new AbortController();
  const clock = setTimeout(() => stop.abort(), blob ? PHOTO_WAIT_MS : WAIT_MS);
  try {
    const asked = { Accept: "application/json", "X-Record": "1", ...headers };
    const sent = { method: "POST", body: bodyOf(item, page, now, blob), headers: asked, redirect: "manual", credentials: "same-origin" };
    return await read(await fetch(item.action, { ...sent, signal: stop.signal }));
  } catch (failed) {
    return { status: 0, ours: false, kind: "", text: "", told: null, reason: failed.name === "AbortError" ? NO_ANSWER : NO_SIGNAL };
  } finally {
    clearTimeout(clock);
  }
}
