// Whose phone it is for now. The key that opens what lies here is kept until somebody signs out or another person signs in.

import { canSeal, keyFrom } from "./seal.js";
import { openStore } from "./store.js";
import { isOurs } from "../ours.js";

const ME = "/api/me";
const SHORT_MS = 5000;

// Who the server says is signed in; `signedOut` where nobody is, null where it does not answer.
export async function askMe(fetch = globalThis.fetch) {
  const stop = new AbortController();
  const asked = Date.now();
  const clock = setTimeout(() => stop.abort(), SHORT_MS);
  try {
    const answer = await fetch(ME, { credentials: "same-origin", headers: { Accept: "application/json" }, signal: stop.signal });
    if (!isOurs(answer)) return null;
    if (answer.status === 401) return { signedOut: true };
    if (!answer.ok) return null;
    const told = await answer.json();
    // Known as well as the way there and back lets it be.
    const now = Date.now();
    return { ...told, skew: (asked + now) / 2 - Date.parse(told.at), slack: (now - asked) / 2 };
  } catch {
    return null;
  } finally {
    clearTimeout(clock);
  }
}

export async function keptMe() {
  const store = await openStore();
  return (await store.get("keep", "me")) || null;
}

// How far this clock is ahead of the server's, in ms. It is kept as it was measured first until the clock itself has moved: what is done one
// after the other then never changes places.
const CLOCK_MS = 2000;

async function keep(told, { skew, slack }) {
  const store = await openStore();
  const key = canSeal() ? await keyFrom(told.key) : null;
  const me = { id: "me", who: told.name, display: told.display, role: told.role, csrf: told.csrf, key, skew, slack };
  await store.put("keep", me);
  return me;
}

// The same person in the same session, with a key where the browser has keys.
function isSame(before, told) {
  return Boolean(before) && before.who === told.name && before.csrf === told.csrf && before.role === told.role && Boolean(before.key) === canSeal();
}

// Whether the clock was set meanwhile: further off than both measurements can be wrong.
export function hasMoved(before, told) {
  if (!before || before.skew === undefined) return true;
  return Math.abs(before.skew - told.skew) > CLOCK_MS + (before.slack || 0) + told.slack;
}

// Who is here: as it is kept, and put right by the server where it answers. `changed` says that another person is here than before.
export async function settleMe(fetch = globalThis.fetch) {
  const before = await keptMe();
  // Who signed out without signal is signed out before anything is asked under that session.
  const told = (await leftBehind(fetch)) ? await askMe(fetch) : null;
  if (!told) return { me: before, isHeard: false, isOver: false, changed: false };
  if (told.signedOut) return { me: before, isHeard: true, isOver: true, changed: false };
  const moved = hasMoved(before, told);
  const me = isSame(before, told) && !moved ? before : await keep(told, moved ? told : before);
  return { me, isHeard: true, isOver: false, changed: Boolean(before) && before.who !== told.name };
}

// What was carried stays, and nobody can read it before its person signs in here again. The session is ended now, or as soon as there is signal.
export async function forgetMe(fetch = globalThis.fetch) {
  const store = await openStore();
  const me = await keptMe();
  if (me) await store.put("keep", { id: "out", csrf: me.csrf });
  await store.drop("keep", "me");
  await leftBehind(fetch);
}

// Ends a session that somebody left. Whether none is left behind: another that began since is not theirs, and is not ended.
async function leftBehind(fetch) {
  const store = await openStore();
  const out = await store.get("keep", "out");
  if (!out) return true;
  try {
    const answer = await fetch("/sign-out", { method: "POST", body: new URLSearchParams({ csrf: out.csrf }), redirect: "manual", credentials: "same-origin" });
    if (answer.type !== "opaqueredirect" && !isOurs(answer)) return false;
    await store.drop("keep", "out");
    return true;
  } catch {
    return false;
  }
}
