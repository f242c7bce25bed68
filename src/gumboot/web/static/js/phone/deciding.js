// One field of the plan, decided from a phone: sent at once, for what follows from it is worked out by the server.

import { planAt } from "../addresses.js";
import { NO_SIGNAL, WAIT_MS } from "./sending.js";
import { isOurs } from "../ours.js";

// The answer to a decision: the revision that it made, what speaks against it, or that nobody answered.
export async function decide(job, { path, typed, base, csrf }, fetch = globalThis.fetch) {
  try {
    const answer = await fetch(planAt(job), {
      method: "PATCH",
      credentials: "same-origin",
      headers: { Accept: "application/json", "Content-Type": "application/json", "X-CSRF-Token": csrf },
      body: JSON.stringify({ path, typed, base }),
      signal: AbortSignal.timeout(WAIT_MS),
    });
    if (!isOurs(answer)) return { status: 0, words: NO_SIGNAL };
    const told = await answer.json();
    return { status: answer.status, revision: told.revision, words: told.detail || "", by: told.by || "" };
  } catch {
    return { status: 0, words: NO_SIGNAL };
  }
}
