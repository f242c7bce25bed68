// What an answer means for a record that was sent, and how what waits is told.

// Answers that only a person can do something about.
const NEEDS_SOMEBODY = new Set([400, 403, 404, 409, 413, 422]);

// It is on record, it waits for better times, or it needs somebody. An answer of our own server has a mark; a hotspot's has none.
export function settled(answer) {
  if (answer.status === 200 && answer.ours) return { kept: true, state: "sent", defects: answer.told?.defects || [] };
  if (answer.ours && NEEDS_SOMEBODY.has(answer.status)) return { kept: false, state: "refused" };
  return { kept: false, state: answer.status === 401 ? "sign-in" : "waiting" };
}

// Why a record was not taken, in words.
export function reasonOf(answer) {
  if (answer.reason) return answer.reason;
  if (answer.status === 401) return "your session is over: sign in again";
  if (answer.told?.detail) return answer.told.detail;
  return "the server answered " + answer.status;
}

// How many seconds ago a record was done by this device's own clock, which the server takes off its own; to the thousandth, so that
// what was done one after the other stays so.
export function ageOf(item, now) {
  return Math.max(0, Math.round(now - (item.at || now)) / 1000);
}

const count = (n, one, many) => n + " " + (n === 1 ? one : many);

// The strip over a page: how much waits, and whether anybody is needed.
export function stripWords(items, { offline = false, full = 0, isOver = false } = {}) {
  const waiting = items.filter((item) => item.state !== "sent");
  const needs = waiting.filter((item) => item.state === "refused" && item.isMine).length;
  const parts = [];
  if (offline) parts.push("No signal");
  if (waiting.length) parts.push(waiting.length + " kept");
  if (needs) parts.push(count(needs, "needs you", "need you"));
  if (isOver && waiting.length) parts.push("sign in to send");
  if (full >= 0.8) parts.push("phone " + Math.round(full * 100) + " % full");
  return parts.join(" · ");
}

// A line of what waits: whose it is, when it was done, and why it is still here.
export function lineOf(item, me, time) {
  const other = Boolean(item.who) && item.who !== me;
  const why = other ? ": waits until " + item.who + " signs in here" : item.reason ? ": " + item.reason : "";
  return {
    id: item.id,
    title: item.title || "A record",
    told: (item.who || "nobody named") + ", " + (item.at ? time(item.at) : "time unknown") + why,
    needs: item.state === "refused" && !other,
    sure: false,
    field: "why-" + item.id,
    why: "",
    problem: "",
  };
}
