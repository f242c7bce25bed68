// The house in the bag: taken along, kept fresh while there is signal, left behind again.

import { bagWords } from "../phone/bag.js";
import { clockOf } from "../times.js";

const DAY_MS = 86400000;

export const carrying = (my) => ({
  bagTitle: "",
  bagTold: "",
  mayTakeAlong: false,
  leaveWords: "Leave it behind",

  // What the phone carries of this house, in words.
  async bagged() {
    const told = my.known && (await my.phone.bags.told(this.job));
    const can = await my.phone.bags.canKeep();
    this.isAlong = Boolean(told);
    this.mayTakeAlong = can && !told;
    this.leaveWords = my.sureLeave ? "Sure: leave it" : "Leave it behind";
    const title = my.known ? my.known.bag.job.title : "";
    this.bagTitle = told ? title + ": taken along" : title ? "Not taken along" : "";
    this.bagTold = told ? bagWords(told, clockOf) + " · ready without signal" : can ? "Without signal nothing of it could be opened." : my.lacks || "This phone keeps no house: it works on while there is signal.";
    if (told && Date.now() - told.heardAt > DAY_MS) this.bagTold += " · older than a day";
  },

  async takeAlong() {
    this.working = true;
    try {
      await navigator.storage?.persist?.();
      await this.refresh();
      if (!my.phone.isHeard) throw new Error("no signal");
      await my.phone.bags.keep(my.known);
      this.isAlong = true;
      await this.keepPhotos();
      this.tell("Taken along", "ok", "");
    } catch (failed) {
      this.trouble = failed.name === "QuotaExceededError" ? "This phone has no room for the house. Nothing was taken along; what waits is untouched." : "The house could not be taken along: " + failed.message + ".";
    } finally {
      this.working = false;
      await this.bagged();
    }
  },

  async keepAlong() {
    const told = await my.phone.bags.told(this.job);
    const signed = my.known.acts.signed;
    const waits = my.items.some((item) => item.state !== "sent" && item.job === this.job);
    // A house that is signed off leaves the phone again, when nothing of it waits.
    if (signed && !waits) {
      await my.phone.bags.leave(this.job);
      this.isAlong = false;
    } else {
      await my.phone.bags.keep(my.known, told ? told.takenAt : Date.now());
      await this.keepPhotos();
    }
  },

  // The pictures of lugs whose mark is looked at again.
  async keepPhotos() {
    const { photos = {} } = my.known.acts;
    const needed = Object.entries(photos).filter(([act]) => act.startsWith("torque:")).flatMap(([, rows]) => rows.slice(-1).map((row) => row.hash));
    if (needed.length) await my.phone.bags.takePhotos(this.job, needed);
  },

  async leaveBehind() {
    if (!my.sureLeave) {
      my.sureLeave = true;
      this.leaveWords = "Sure: leave it";
      return;
    }
    my.sureLeave = false;
    await my.phone.bags.leave(this.job);
    this.isAlong = false;
    await this.bagged();
  },
});
