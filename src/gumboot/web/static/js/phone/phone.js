// What every page has of the phone: who it is kept for, what waits, the houses taken along, and one sender for all of it.

import { Bags } from "./bag.js";
import { Items, freshId } from "./items.js";
import { keptMe, settleMe } from "./person.js";
import { Sender } from "./sender.js";
import { fullness } from "./store.js";
import { asideAt } from "../addresses.js";
import { timeOf } from "../times.js";

const DEVICE = "gumboot-device";
const SYNC = "gumboot-send";
const TAKE_OVER = "take over";

// A name of this device, made once: which phone a record was made on, and nothing of whose it is.
export function deviceName(storage = globalThis.localStorage) {
  try {
    const known = storage.getItem(DEVICE);
    if (known) return known;
    const made = (globalThis.innerWidth < 600 ? "phone " : "screen ") + freshId().slice(0, 6);
    storage.setItem(DEVICE, made);
    return made;
  } catch {
    return "";
  }
}

export class Phone {
  constructor({ device = deviceName(), heard = () => {} } = {}) {
    this.me = null;
    this.isHeard = true;
    this.isOver = false;
    const me = async () => this.me || keptMe();
    this.items = new Items(me);
    this.bags = new Bags(me);
    this.sender = new Sender({ items: this.items, me, device, heard, renew: () => this.settle() });
  }

  // Who is here as it was kept: at once, without asking anybody.
  async begin() {
    this.me = await keptMe();
    return this.me;
  }

  // What another page held back for its five seconds: the page on which it could be taken back is gone.
  async letGo() {
    const now = Date.now();
    for (const item of await this.items.all()) if (item.isMine && item.from > now) await this.items.mark(item.id, { from: 0 });
  }

  // Who is here as the server says; what it does not answer stays as it was.
  async settle() {
    const said = await settleMe();
    this.me = said.me;
    this.isHeard = said.isHeard;
    this.isOver = said.isOver;
    this.changed = said.changed;
    if (said.changed) await this.letGo();
    return this.me;
  }

  async send() {
    await this.sender.run();
    await this.later();
  }

  // What still waits is sent by the browser when there is signal, where it can, though no page is open.
  async later() {
    try {
      const worker = await globalThis.navigator?.serviceWorker?.getRegistration();
      if (worker && worker.active && worker.sync) await worker.sync.register(SYNC);
    } catch {
      // A browser that cannot: what waits is sent by the next page.
    }
  }

  // What leaves without being filed leaves a record of that: what it said, and why it was set aside.
  async setAside(item, reason, { who = "", said = "" } = {}) {
    const words = [item.title || "A record", said, item.at ? "done " + timeOf(item.at) : ""].filter(Boolean).join(", ");
    const fields = { said: words.slice(0, 480), refused: (item.reason || "").slice(0, 480), reason };
    const aside = { id: freshId(), kind: "record", who: item.who || who, at: Date.now(), state: "waiting", from: 0, reason: "" };
    const where = { action: asideAt(item.action), title: "Set aside: " + (item.title || "a record"), job: item.job, device: item.device };
    await this.items.put({ ...aside, ...where, fields });
    await this.items.drop(item.id);
  }

  async full() {
    return fullness();
  }
}

// The worker that keeps pages for when there is no signal. Where a browser has none, the reason in words. A page that the worker itself gave
// asks whether there is a later version: a browser may take its time with that. One that is there already takes over as the page opens.
export async function hireWorker({ isKept = false } = {}) {
  if (!globalThis.isSecureContext) return "This address is not secure: a phone keeps pages only of https addresses. It works on while there is signal.";
  if (!navigator.serviceWorker) return "This browser keeps no pages: it works on while there is signal.";
  try {
    await loaded();
    const hired = await navigator.serviceWorker.register("/sw.js", { type: "module", scope: "/" });
    if (hired.waiting) takeOver(hired.waiting, isKept);
    else if (isKept) hired.update().catch(() => {});
    return "";
  } catch {
    return "This browser could not keep the pages: it works on while there is signal.";
  }
}

// Nothing of a page is under way any more: a worker that makes way in the middle leaves what it was asked for unanswered.
function loaded() {
  if (document.readyState === "complete") return null;
  return new Promise((done) => {
    addEventListener("load", done, { once: true });
  });
}

function takeOver(worker, isKept) {
  if (isKept) navigator.serviceWorker.addEventListener("controllerchange", () => location.reload(), { once: true });
  worker.postMessage(TAKE_OVER, []);
}
