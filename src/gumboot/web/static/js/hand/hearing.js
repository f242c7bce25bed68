// What the server says while there is signal: who is here, the house as it is now, what others record.

import { OVER } from "./acting.js";
import { LATER } from "../phone/bag.js";
import { eventsAt } from "../addresses.js";

const SOON_MS = 400;

export const hearing = (my) => ({
  returned() {
    this.reopen();
    this.heardAgain();
  },

  async again() {
    if (document.hidden || !navigator.onLine) return;
    if (!my.phone.isHeard || this.waiting.length) await this.heardAgain();
  },

  async hear() {
    const before = my.phone.me ? my.phone.me.who : "";
    await my.phone.settle();
    // Another person is here than the page was drawn for: nothing of the one before stays on the glass.
    if (before && my.phone.me && my.phone.me.who !== before) location.reload();
    if (my.phone.isOver && my.known) this.trouble = OVER;
  },

  async heardAgain() {
    await this.hear();
    if (my.phone.isHeard && !my.phone.isOver) {
      await my.phone.send();
      await this.refresh();
      this.follow();
    }
    await this.count();
  },

  // The house as the server has it now, kept again where it was taken along.
  async refresh(early = null) {
    if (!this.job) return;
    try {
      const told = await (early || my.phone.bags.heard(this.job, my.known));
      if (told.failed) throw told.failed;
      my.known = told;
      my.phone.isHeard = true;
    } catch (failed) {
      this.unheard(failed);
      return;
    }
    if (this.isAlong) await this.keepAlong();
    await this.count();
    this.redraw();
  },

  // Without an answer there is no signal; an answer that is none of a house says why.
  unheard({ status, words = "" }) {
    my.phone.isHeard = Boolean(status);
    my.phone.isOver = my.phone.isOver || status === 401;
    if (status === LATER) this.trouble = "There is a later version of Gumboot: it is being fetched. Open this page again; what waits is untouched.";
    else if (status === 404) this.trouble = "There is no such house any more. What was recorded here for it waits in the outbox.";
    else if (status && status !== 401) this.trouble = (words || "The server answered " + status + " when it was asked for this house.") + (my.known ? " What is shown is what this phone knew before." : "");
  },

  // What others record is heard while there is signal.
  follow() {
    if (my.stream || !this.job || !window.EventSource || document.hidden || !my.phone.isHeard) return;
    my.stream = new EventSource(eventsAt(this.job));
    my.stream.addEventListener("record", (event) => {
      // One's own are known here already.
      if (my.phone.me && JSON.parse(event.data).who === my.phone.me.who && my.items.some((item) => item.id === JSON.parse(event.data).id)) return;
      clearTimeout(my.soon);
      my.soon = setTimeout(() => this.refresh(), SOON_MS);
    });
  },
});
