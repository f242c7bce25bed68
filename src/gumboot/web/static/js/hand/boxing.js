// Boxes taken in hand, so that two of a crew do not land in one.

import { boxAt } from "../addresses.js";
import { isOurs } from "../ours.js";

export const boxing = (my) => ({
  boxWords: "",
  boxTone: "",

  boxed(view) {
    const holdings = my.house.carried.holdings || {};
    const held = holdings[view.place];
    const isMine = held && held.name === my.house.carried.person.name;
    const isWire = view.station === "wire" && this.current.startsWith("torque:");
    this.boxWords = !isWire ? "" : isMine ? view.place + ": you" : held ? view.place + ": " + held.display : "take in hand";
    this.boxTone = isMine ? "mine" : "";
  },

  // A box is taken where there is signal: without it nobody else would know.
  async takeBox() {
    const place = my.house.bag.cards[this.current].place;
    const held = (my.house.carried.holdings || {})[place];
    const isMine = held && held.name === my.house.carried.person.name;
    const address = boxAt(this.job, place, ...(isMine ? ["leave"] : []));
    try {
      const answer = await fetch(address, { method: "POST", body: new URLSearchParams({ csrf: my.phone.me.csrf }), headers: { Accept: "application/json" }, redirect: "manual" });
      if (answer.status >= 400 && isOurs(answer)) this.tell("Not taken", "bad", (await answer.json()).detail || "");
      await this.refresh();
    } catch {
      this.tell("No signal", "mind", "a box is taken in hand where the others can hear of it");
    }
  },
});
