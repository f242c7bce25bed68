// Houses that were taken along: pages, pictures, acts, kept closed under the key of their person and refreshed while there is signal.

import { seal, sealBytes, sealText, unseal, unsealBytes, unsealText } from "./seal.js";
import { openStore } from "./store.js";
import { dataAt, pictureAt } from "../addresses.js";
import { isOurs } from "../ours.js";

export const FORMAT = 2;
// What the server gives is made for pages of a later version than this.
export const LATER = 426;
const MOST_PHOTOS = 200;
// A house is fetched whole, on one bar of signal too.
const MOST_MS = 60000;

// What the server says against it, where it says so in words.
async function reasonIn(answer) {
  return (await answer.json().catch(() => null))?.detail || "";
}

async function fetched(address, fetch) {
  const answer = await fetch(address, { credentials: "same-origin", headers: { Accept: "application/json" }, signal: AbortSignal.timeout(MOST_MS) });
  if (!isOurs(answer)) throw new Error("no answer of ours");
  if (answer.status === 204) return null;
  if (!answer.ok) throw Object.assign(new Error("the server answered " + answer.status), { status: answer.status, words: await reasonIn(answer) });
  return answer.text();
}

// A house as an earlier version kept it, as this one reads it: what it lacks is fetched where there is signal. Null for what no version knows.
export function upgraded(house) {
  const { bag } = house;
  if (bag.format === 1) Object.assign(bag, { format: 2, tag: "", plan: { editors: [], stations: {} } });
  return bag.format === FORMAT ? house : null;
}

// A name that says nothing of the house, and is another for every person.
async function nameOf(job, who, crypto = globalThis.crypto) {
  const bytes = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(who + "\n" + job));
  return [...new Uint8Array(bytes)].map((byte) => byte.toString(16).padStart(2, "0")).join("").slice(0, 32);
}

export class Bags {
  constructor(me, { open = openStore, fetch = (...asked) => globalThis.fetch(...asked), clock = () => Date.now() } = {}) {
    Object.assign(this, { me, open, fetch, clock });
  }

  // The house as the server has it now; the cards that are here already are not fetched again.
  async heard(job, known = null) {
    const [acts, bag] = await Promise.all([
      fetched(dataAt(job, "acts"), this.fetch),
      fetched(dataAt(job, "bag?tag=" + (known ? known.bag.tag : "")), this.fetch),
    ]);
    const house = { acts: JSON.parse(acts), bag: bag ? JSON.parse(bag) : known.bag, heardAt: this.clock() };
    if (house.bag.format > FORMAT) throw Object.assign(new Error("a later version"), { status: LATER });
    return house;
  }

  async canKeep() {
    const me = await this.me();
    const store = await this.open();
    return Boolean(me && me.key && store.isLasting);
  }

  // Kept for days without signal. Nothing is said to be here before it is.
  async keep(house, takenAt = this.clock()) {
    const me = await this.me();
    const job = house.bag.job.id;
    const id = await nameOf(job, me.who);
    const body = await sealText(me.key, JSON.stringify(house));
    const size = body.data.byteLength;
    const { title } = house.bag.job;
    const told = { job, title, takenAt, heardAt: house.heardAt, size, holds: house.bag.holds, format: house.bag.format, tag: house.bag.tag };
    const store = await this.open();
    await store.put("bags", { id, who: me.who, kind: "house", told: await seal(me.key, told), body });
    return told;
  }

  async kept(job) {
    const me = await this.me();
    if (!me || !me.key) return null;
    const store = await this.open();
    return (await store.get("bags", await nameOf(job, me.who))) || null;
  }

  // A house as it lies here; null where it was not taken along, or by a later version than this.
  async house(job) {
    const bag = await this.kept(job);
    if (!bag) return null;
    const me = await this.me();
    return upgraded(JSON.parse(await unsealText(me.key, bag.body)));
  }

  async told(job) {
    const bag = await this.kept(job);
    const me = await this.me();
    return bag ? unseal(me.key, bag.told) : null;
  }

  // The houses of who is here.
  async all() {
    const me = await this.me();
    if (!me || !me.key) return [];
    const store = await this.open();
    const mine = (await store.all("bags")).filter((bag) => bag.who === me.who && bag.kind === "house");
    return Promise.all(mine.map((bag) => unseal(me.key, bag.told)));
  }

  async leave(job) {
    const me = await this.me();
    if (!me) return;
    const store = await this.open();
    const id = await nameOf(job, me.who);
    for (const bag of await store.all("bags")) if (bag.id === id || bag.of === id) await store.drop("bags", bag.id);
  }

  // Pictures that are looked at again: a mark of yesterday beside the lug of today.
  async takePhotos(job, names) {
    const me = await this.me();
    const store = await this.open();
    const of = await nameOf(job, me.who);
    let taken = 0;
    for (const name of names.slice(0, MOST_PHOTOS)) {
      const id = of + " " + (await nameOf(name, me.who));
      if (await store.get("bags", id)) continue;
      const answer = await this.fetch(pictureAt(job, name), { credentials: "same-origin" });
      if (!answer.ok || !isOurs(answer)) continue;
      const kind = answer.headers.get("content-type");
      await store.put("bags", { id, of, who: me.who, kind: "photo", type: kind, body: await sealBytes(me.key, await answer.arrayBuffer()) });
      taken += 1;
    }
    return taken;
  }

  async photo(job, name) {
    const me = await this.me();
    if (!me || !me.key) return null;
    const store = await this.open();
    const kept = await store.get("bags", (await nameOf(job, me.who)) + " " + (await nameOf(name, me.who)));
    return kept ? new Blob([await unsealBytes(me.key, kept.body)], { type: kept.type }) : null;
  }
}

const KILO = 1000;

// "54 terminations, 4 rituals · taken 07:40 · 1.6 MB"
export function bagWords(told, time) {
  const holds = Object.entries(told.holds).map(([words, count]) => count + " " + (count === 1 ? words.slice(0, -1) : words)).join(", ");
  const kb = told.size / KILO;
  const size = kb < KILO ? Math.round(kb) + " kB" : (kb / KILO).toFixed(1) + " MB";
  return holds + " · taken " + time(told.takenAt) + ", heard " + time(told.heardAt) + " · " + size;
}
