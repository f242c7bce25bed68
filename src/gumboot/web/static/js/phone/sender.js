// Sends what waits, one sender at a time whatever is open, in the order in which it was done; what is refused holds up nothing behind it.

import { ageOf, reasonOf, settled } from "./settled.js";
import { sendOne } from "./sending.js";

const LOCK = "gumboot-send";
const SOON_MS = 60000;

const locked = (work) => {
  const locks = globalThis.navigator?.locks;
  return locks ? locks.request(LOCK, { ifAvailable: true }, (lock) => (lock ? work() : null)) : work();
};

export class Sender {
  // `items` is what waits, `me` gives who is here, `device` names the phone; `busy` holds what a page sends itself.
  constructor({ items, me, device, renew = null, clock = () => Date.now(), send = sendOne, heard = () => {}, busy = new Set() }) {
    Object.assign(this, { items, me, device, renew, clock, send, heard, busy });
    this.running = null;
  }

  // Everything that is due. Who comes while it runs, perhaps because there is signal again, waits for one more run.
  run() {
    if (this.running) this.isAsked = true;
    this.running ??= this.runs().finally(() => {
      this.running = null;
    });
    return this.running;
  }

  async runs() {
    do {
      this.isAsked = false;
      await locked(() => this.work());
    } while (this.isAsked);
  }

  async work() {
    const me = await this.me();
    if (!me) return;
    const tried = new Set();
    let due;
    // What came meanwhile is sent in the same run.
    do {
      due = (await this.items.due(me.who, this.clock())).filter((each) => !tried.has(each.id) && !this.busy.has(each.id));
      for (const { id } of due) {
        tried.add(id);
        if (!(await this.passes(id, me))) return;
      }
    } while (due.length);
  }

  // One that is still to be sent, as it is now. Whether the next may be tried: not where nothing gets through, or somebody has to sign in first.
  async passes(id, me) {
    const item = await this.items.get(id);
    if (!item || item.state === "sent" || item.state === "refused" || this.busy.has(id)) return true;
    const said = await this.one(item, me);
    return said.kept || said.state === "refused";
  }

  async one(item, me) {
    const blob = item.kind === "photo" ? await this.items.blobOf(item.id) : null;
    const told = item.fields?.head === undefined ? item : { ...item, fields: { ...item.fields, head: await this.headNow(item) } };
    const going = (who) => this.send(told, { csrf: who.csrf, device: this.device, skew: who.skew }, { blob, now: this.clock() });
    let answer = await going(me);
    if (answer.ours && answer.status === 403) {
      // A session that began since has another token: with that one it is asked again before anybody is troubled.
      const now = this.renew ? await this.renew() : null;
      if (now && now.who !== me.who) answer = { status: 401, ours: true, reason: "it waits until " + me.who + " signs in here" };
      else if (now && now.csrf !== me.csrf) answer = await going(now);
    }
    return this.settle(item, answer);
  }

  // A signature is for what its signer saw and what left this phone since. Where another's record came between, it keeps the head that was seen,
  // and the server says so.
  async headNow({ fields, job }) {
    const sent = (await this.items.all()).filter((item) => item.state === "sent" && item.job === job && item.head);
    const after = new Map(sent.map((item) => [item.before, item.head]));
    let { head } = fields;
    while (after.has(head)) head = after.get(head);
    return head;
  }

  async settle(item, answer) {
    const said = settled(answer);
    const now = this.clock();
    if (said.kept) {
      const { before = "", head = "" } = answer.told || {};
      const kept = { state: "sent", sentAt: now, reason: "", defects: said.defects, late: ageOf(item, now) * 1000 > SOON_MS, before, head };
      await this.items.mark(item.id, kept);
    } else await this.items.mark(item.id, { state: said.state, reason: reasonOf(answer), asks: answer.asks || false });
    this.heard({ item, said, answer });
    return said;
  }
}
