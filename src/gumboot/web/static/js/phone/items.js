// What waits on a phone: records and pictures, each with its doer, its time and what became of it. What it says is closed to others.

import { seal, sealBytes, unseal, unsealBytes } from "./seal.js";
import { openStore } from "./store.js";

const UNNAMED = "Kept by an earlier version, without a name or a time. If you did it, send it again.";
const CLOSED = "closed: it was kept under another key";
// Where earlier versions kept them.
const OLD = "gumboot-kept";
const DAY_MS = 86400000;

// A name that no other record has.
export function freshId(crypto = globalThis.crypto) {
  if (crypto && crypto.randomUUID) return crypto.randomUUID();
  return "k" + Date.now().toString(16) + "-" + Math.random().toString(16).slice(2, 14);
}

// What of an item anybody may see; the rest is what it says.
const OPEN = new Set(["id", "who", "at", "state", "from", "kind", "sentAt"]);

function parted(item) {
  const open = {};
  const said = {};
  for (const [name, value] of Object.entries(item)) {
    if (name === "blob" || name === "isMine") continue;
    if (OPEN.has(name)) open[name] = value;
    else said[name] = value;
  }
  return { open, said };
}

// An item of the old queue as it is now; one of an earlier version yet has neither a doer nor a time.
export function currentOf(item) {
  const { id, who, at, ...rest } = item;
  if (id) return { kind: "record", from: 0, ...rest, id, who, at, state: item.state === "refused" ? "refused" : "waiting" };
  const { record_id: named, ...fields } = item.fields;
  const told = { action: item.action, fields, title: "A torque record", reason: UNNAMED };
  return { kind: "record", from: 0, id: named || freshId(), who: "", at: 0, state: "refused", ...told };
}

export class Items {
  // `me` gives who is here with the key; `open` the store.
  constructor(me, open = openStore) {
    this.me = me;
    this.open = open;
    // What was opened once is not opened again while it is the same.
    this.opened = new Map();
  }

  async close(item) {
    const { open, said } = parted(item);
    const me = await this.me();
    const key = me && me.who === item.who ? me.key : null;
    return key ? { ...open, sealed: await seal(key, said) } : { ...open, said };
  }

  async read(kept) {
    if (!kept) return null;
    const { sealed, said, ...open } = kept;
    const me = await this.me();
    const isMine = !open.who || Boolean(me && me.who === open.who);
    if (!sealed) return { ...open, ...said, isMine };
    if (!isMine || !me.key) return { ...open, isMine: false };
    try {
      return { ...open, ...(await this.unsealed(me, kept)), isMine };
    } catch {
      return { ...open, title: "A record", reason: CLOSED, isMine: false };
    }
  }

  async unsealed(me, { id, sealed }) {
    const mark = me.who + sealed.iv.join();
    const known = this.opened.get(id);
    if (known && known.mark === mark && known.key === me.key) return known.said;
    const said = await unseal(me.key, sealed);
    this.opened.set(id, { mark, key: me.key, said });
    return said;
  }

  // The picture of an item, opened. It lies apart: who counts what waits does not carry pictures about.
  async blobOf(id) {
    const store = await this.open();
    const kept = await store.get("blobs", id);
    if (!kept) return null;
    if (kept.blob instanceof Blob) return kept.blob;
    const me = await this.me();
    return new Blob([await unsealBytes(me.key, kept.blob)], { type: "image/jpeg" });
  }

  async putBlob(store, item) {
    const me = await this.me();
    const key = me && me.who === item.who ? me.key : null;
    await store.put("blobs", { id: item.id, blob: key ? await sealBytes(key, await item.blob.arrayBuffer()) : item.blob });
  }

  // Everything, the oldest first.
  async all() {
    const store = await this.open();
    const kept = await store.all("items");
    const found = await Promise.all(kept.map((each) => this.read(each)));
    return found.toSorted((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1));
  }

  async get(id) {
    const store = await this.open();
    return this.read(await store.get("items", id));
  }

  async put(item) {
    const store = await this.open();
    if (item.blob) await this.putBlob(store, item);
    await store.put("items", await this.close(item));
    return store.isLasting;
  }

  // As it is now with something changed; nothing where it is gone, or is closed to who is here.
  async mark(id, changes) {
    const before = await this.get(id);
    if (!before || (!before.action && !before.said)) return null;
    const after = { ...before, ...changes };
    const closed = await this.close(after);
    const store = await this.open();
    await store.change("items", id, () => closed);
    // What was sent is the server's: its picture takes no more room here.
    if (after.state === "sent") await store.drop("blobs", id);
    return after;
  }

  async drop(id) {
    const store = await this.open();
    this.opened.delete(id);
    await store.drop("items", id);
    await store.drop("blobs", id);
  }

  // What may be sent by somebody now: their own, and none that needs them first; records before pictures.
  async due(who, now) {
    const found = await this.all();
    const mine = found.filter((item) => item.isMine && item.who === who && item.action && item.state !== "refused" && item.state !== "sent");
    const records = mine.filter((item) => item.kind !== "photo");
    const ready = records.filter((item) => (item.from || 0) <= now);
    // Pictures wait for every record, those that may still be taken back too.
    return ready.length < records.length ? ready : [...ready, ...mine.filter((item) => item.kind === "photo")];
  }

  // What was sent is shown for a day, then it is the server's alone.
  async tidy(now) {
    const found = await this.all();
    for (const item of found) if (item.state === "sent" && now - (item.sentAt || 0) > DAY_MS) await this.drop(item.id);
  }

  // What earlier versions kept, brought here; nothing is taken from there before it is here.
  async drain(storage) {
    let old;
    try {
      old = JSON.parse(storage.getItem(OLD) || "[]");
    } catch {
      return 0;
    }
    if (!Array.isArray(old) || !old.length) return 0;
    const store = await this.open();
    if (!store.isLasting) return 0;
    for (const item of old) {
      const now = currentOf(item);
      if (!(await store.get("items", now.id))) await this.put(now);
    }
    storage.removeItem(OLD);
    return old.length;
  }
}
