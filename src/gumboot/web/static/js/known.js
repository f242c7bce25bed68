// What this page knows of a house while there is signal, to tell without signal whether an act may be done.

import { Gates } from "./gates.js";
import { dataAt } from "./addresses.js";
import { isOurs } from "./ours.js";

const AFTER_MS = 2000;
// The server refuses what is out of its turn as long as it is no older than this.
const SOON_MS = 60000;
const RECORD = /^\/jobs\/([^/]+)\/records\/([^/]+)\/([^/]+)$/;

// The house and the act that a record is sent to; null where it is none.
export function aimOf(action) {
  const found = RECORD.exec(action);
  return found ? { job: decodeURIComponent(found[1]), act: decodeURIComponent(found[2]) + ":" + decodeURIComponent(found[3]) } : null;
}

const recordOf = (item) => ({ id: item.id, act: aimOf(item.action)?.act, fields: item.fields, at: item.at });
const isAgreement = (act, fields) => act.kind === "setting" && "record" in fields;

function heldWords({ gate, by }, gates) {
  const title = by.length ? gates.acts.get(by[0]).title : "";
  return {
    held: "it waits for: " + title,
    "too early": "it is too early after: " + title,
    "not yours": "another role does it",
    unknown: "it is no act of this plan",
  }[gate];
}

// What a phone says of a record that cannot be sent: whether it may be done as far as is known here.
// `given` is what the server gave, `waiting` the records that were made here since.
export function verdictOf(given, waiting, item) {
  const aim = aimOf(item.action);
  const gates = new Gates(given);
  const act = aim && gates.acts.get(aim.act);
  if (!act || item.fields.take_back) return { isHeld: false, words: "" };
  const mine = waiting.filter((other) => other.id !== item.id && other.state !== "refused" && aimOf(other.action)?.job === aim.job);
  for (const other of mine) gates.add(recordOf(other));
  const said = gates.gate(act.id, item.at, { agrees: isAgreement(act, item.fields) });
  if (said.gate === "unsure") return { isHeld: false, words: "Whether it was in its turn, the server says." };
  if (said.gate !== "open") return { isHeld: true, words: heldWords(said, gates) };
  return { isHeld: false, words: "" };
}

// The house that a page is about, asked for again a while after it was drawn. `fetch` and the clock are given by tests.
export class Known {
  constructor(fetch = (...asked) => globalThis.fetch(...asked)) {
    this.fetch = fetch;
    this.job = "";
    this.given = null;
    this.acknowledged = [];
    this.soon = 0;
  }

  // Asked for when the page has come to rest.
  later(job) {
    if (!job) return;
    clearTimeout(this.soon);
    this.soon = setTimeout(() => this.ask(job), AFTER_MS);
  }

  async ask(job) {
    const before = this.acknowledged.length;
    try {
      const answer = await this.fetch(dataAt(job, "acts"), { credentials: "same-origin" });
      if (!answer.ok || !isOurs(answer)) return;
      this.given = await answer.json();
      this.job = job;
      this.acknowledged.splice(0, before);
    } catch {
      // No signal: what is known stays known.
    }
  }

  // A record that the server has taken since. Of one that lay here it may have found that it was out of its turn: ask again.
  taken(item, now) {
    if (now - item.at > SOON_MS) this.given = null;
    else this.acknowledged.push(item);
  }

  verdict(waiting, item) {
    if (!this.given || aimOf(item.action)?.job !== this.job) return { isHeld: false, words: "" };
    return verdictOf(this.given, [...this.acknowledged, ...waiting], item);
  }
}
