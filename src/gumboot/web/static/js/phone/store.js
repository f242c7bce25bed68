// The phone's own store: who it is kept for, the houses that were taken along, and the records that wait. Nothing here knows a page.

import { openDB } from "../../idb.js";

const NAME = "gumboot";
const VERSION = 1;
const PLACES = ["keep", "bags", "items", "blobs"];

// Where a browser keeps nothing, what is made lasts as long as the page.
export class MemoryStore {
  constructor() {
    this.isLasting = false;
    this.places = new Map(PLACES.map((place) => [place, new Map()]));
  }

  async get(place, id) {
    return this.places.get(place).get(id);
  }

  async all(place) {
    return [...this.places.get(place).values()];
  }

  async put(place, value) {
    this.places.get(place).set(value.id, value);
  }

  async drop(place, id) {
    this.places.get(place).delete(id);
  }

  // A value made new out of what it was, in one go: two tabs cannot undo each other's work.
  async change(place, id, made) {
    const before = await this.get(place, id);
    const after = before && made(before);
    if (after) await this.put(place, after);
    return after;
  }
}

class PhoneStore {
  constructor(db) {
    this.isLasting = true;
    this.db = db;
  }

  async get(place, id) {
    return this.db.get(place, id);
  }

  async all(place) {
    return this.db.getAll(place);
  }

  async put(place, value) {
    await this.db.put(place, value);
  }

  async drop(place, id) {
    await this.db.delete(place, id);
  }

  async change(place, id, made) {
    const work = this.db.transaction(place, "readwrite");
    const before = await work.store.get(id);
    const after = before && made(before);
    if (after) await work.store.put(after);
    await work.done;
    return after;
  }
}

let opened = null;

async function openPhone() {
  try {
    const db = await openDB(NAME, VERSION, {
      upgrade(made) {
        for (const place of PLACES) if (!made.objectStoreNames.contains(place)) made.createObjectStore(place, { keyPath: "id" });
      },
      // Another tab brings a newer version: it is let in, and what is kept is opened again when it is asked for.
      blocking(_old, _new, event) {
        event.target.close();
        opened = null;
      },
      terminated() {
        opened = null;
      },
    });
    return new PhoneStore(db);
  } catch {
    return new MemoryStore();
  }
}

// One store for all who ask.
export function openStore() {
  opened ??= openPhone();
  return opened;
}

// How full the phone is, as a share; nothing where the browser does not say.
export async function fullness(storage = globalThis.navigator?.storage) {
  if (!storage || !storage.estimate) return 0;
  const { usage = 0, quota = 0 } = await storage.estimate();
  return quota ? usage / quota : 0;
}
