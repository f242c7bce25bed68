// What needs somebody: filed again, attached to another act, or set aside with a reason; each is a record.

import { freshId } from "../phone/items.js";
import { photoAt, recordAt } from "../addresses.js";

const LEAST = 10;

export const refiling = (my) => ({
  // As it is, under the plan as it is now; what was only asked about is meant so.
  async fileAgain(row) {
    const item = this.itemOf(row);
    const now = { state: "waiting", from: 0, reason: "", sure: Boolean(item.asks) || item.sure, who: item.who || my.phone.me.who, at: item.at || Date.now() };
    if (my.house && item.job === this.job) now.under = my.house.bag.revision;
    await my.phone.items.mark(item.id, now);
    await this.sendNow();
  },

  // Acts of the same kind that are open: one of them may be what was done.
  attach(row) {
    const act = my.house.act(row.act);
    const kind = act ? act.kind : { torque: "torque", check: "measurement" }[String(row.act).split(":")[0]];
    const same = my.house.order.filter((id) => id !== row.act && my.house.has(id) && my.house.act(id).kind === kind && !my.house.isDone(id));
    row.others = same.slice(0, 40).map((id) => ({ id, title: my.house.act(id).title }));
    if (!same.length) row.problem = "No act of its kind is open.";
  },

  async attachTo(row, other) {
    const item = this.itemOf(row);
    const isPhoto = item.kind === "photo";
    const action = (isPhoto ? photoAt : recordAt)(this.job, other.id);
    const blob = isPhoto ? await my.phone.items.blobOf(item.id) : undefined;
    const fields = { ...item.fields, note: ("recorded for " + item.title + ", attached here").slice(0, 290) };
    await my.phone.items.put({ ...item, id: freshId(), action, act: other.id, title: other.title, fields, state: "waiting", from: 0, reason: "", under: my.house.bag.revision, knew: undefined, blob });
    await this.setAside(item, "Attached to another act: " + other.title);
  },

  discard(row) {
    row.asksWhy = true;
  },

  async discardFor(row) {
    if (row.why.trim().length < LEAST) {
      row.problem = "Say why in at least " + LEAST + " characters.";
      return;
    }
    await this.setAside(this.itemOf(row), row.why.trim());
  },

  // What leaves the outbox without being filed leaves a record of that.
  async setAside(item, reason) {
    await my.phone.setAside(item, reason, { who: my.phone.me.who, said: this.wordsOf(item) });
    await this.sendNow();
  },
});
