// Records that wait on this device: what is kept, in which state, and what becomes of each by the answer it gets.
// Nothing here knows the page: where it is kept is given.

export const QUEUE = "gumboot-kept";
// Answers that only a person can do something about.
const NEEDS_SOMEBODY = new Set([400, 403, 404, 409, 413, 422]);
const UNNAMED = "Kept by an earlier version, without a name or a time. If you did it, send it again.";

// A name that no other record has.
export function freshId(crypto = globalThis.crypto) {
  if (crypto && crypto.randomUUID) return crypto.randomUUID();
  return "k" + Date.now().toString(16) + "-" + Math.random().toString(16).slice(2, 14);
}

// An item as it is now; one that an earlier version kept has neither a doer nor a time.
function current(item) {
  if (item.id) return item;
  const { record_id: id, ...fields } = item.fields;
  return { id, action: item.action, fields: { ...fields, record_id: id }, who: "", at: 0, title: "A torque record", state: "refused", reason: UNNAMED };
}

export class Queue {
  constructor(storage) {
    this.storage = storage;
  }

  // What is kept, the oldest first; nothing where the store cannot be read.
  all() {
    try {
      return JSON.parse(this.storage.getItem(QUEUE) || "[]").map(current);
    } catch {
      return [];
    }
  }

  // Whether the list could be written: a full store keeps what it had.
  write(list) {
    try {
      this.storage.setItem(QUEUE, JSON.stringify(list));
      return true;
    } catch {
      return false;
    }
  }

  put(item) {
    return this.write([...this.all().filter((other) => other.id !== item.id), item]);
  }

  drop(id) {
    return this.write(this.all().filter((other) => other.id !== id));
  }

  mark(id, state, reason) {
    return this.write(this.all().map((item) => (item.id === id ? { ...item, state, reason } : item)));
  }

  // One that was refused, sent again by who did it.
  again(id, who, now) {
    return this.write(
      this.all().map((item) => (item.id === id ? { ...item, who: item.who || who, at: item.at || now, state: "waiting" } : item)),
    );
  }

  // What may be sent by somebody now: their own, and none that needs them first or is on its way.
  due(who, busy) {
    return this.all().filter((item) => item.state !== "refused" && item.who === who && !busy.has(item.id));
  }
}

// What an answer means for a record: it is on record, it waits for better times, or it needs somebody.
export function settled(answer) {
  if (answer.status === 200 && answer.ours) return { kept: true, state: "" };
  if (NEEDS_SOMEBODY.has(answer.status)) return { kept: false, state: "refused" };
  return { kept: false, state: answer.status === 401 ? "sign-in" : "waiting" };
}

// Why a record was not taken, in words.
export function reasonOf(answer) {
  if (answer.reason) return answer.reason;
  if (answer.status === 401) return "your session is over: sign in again";
  try {
    const { detail } = JSON.parse(answer.text);
    if (detail) return detail;
  } catch {
    // not ours, or a page
  }
  return "the server answered " + answer.status;
}

// How long ago a record was done by this device's own clock, which the server takes off its own.
export function ageOf(item, now) {
  return Math.max(0, Math.round((now - (item.at || now)) / 1000));
}

// The strip over a page: how much waits, and whether anybody is needed.
export function stripWords(list, offline) {
  const needs = list.filter((item) => item.state === "refused").length;
  const parts = [];
  if (offline) parts.push("No signal");
  if (list.length) parts.push(list.length + " kept here, not sent yet");
  if (needs) parts.push(needs + (needs === 1 ? " needs you" : " need you"));
  return parts.join(" · ");
}

// A line of what waits: whose it is, when it was done, and why it is still here.
export function lineOf(item, me, time) {
  const other = Boolean(item.who) && item.who !== me;
  const why = other ? ": waits until " + item.who + " signs in here" : item.reason ? ": " + item.reason : "";
  return {
    id: item.id,
    title: item.title,
    told: (item.who || "nobody named") + ", " + (item.at ? time(item.at) : "time unknown") + why,
    needs: item.state === "refused" && !other,
    sure: false,
  };
}
