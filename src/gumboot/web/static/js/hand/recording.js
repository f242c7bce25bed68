// Records an answer: on the phone first, with one large word as an answer and five seconds to take it back.

import { judged } from "../terms.js";
import { NEWTON_METRES } from "../units.js";
import { freshId } from "../phone/items.js";
import { isTorqued, toolAsked } from "./answers.js";
import { BACK_MS } from "./taking-back.js";
import { dayOf } from "../times.js";
import { noteAt, recordAt } from "../addresses.js";

const TOLD_MS = 900;
const BUZZ = { ok: [60], bad: [60, 80, 60, 80, 160], mind: [60, 60, 60] };


// One large word for what was answered, as far as this phone can tell.
function wordOf(act, fields, now) {
  if (fields.could_not) return { word: "Noted", tone: "bad" };
  const found = judged(act.terms, fields, dayOf(now));
  if (found === "good") return { word: "Good", tone: "ok" };
  if (found === "unsure") return { word: "Kept", tone: "mind" };
  if (isTorqued(act) && fields.reached) {
    const nm = Number(fields.reached) * NEWTON_METRES[fields.unit];
    const { low, high } = act.terms.find((term) => term.unit === "N m") || {};
    if (nm < low) return { word: "Too low", tone: "bad" };
    if (nm > high) return { word: "Too high", tone: "bad" };
  }
  return { word: "Not good", tone: "bad" };
}


export const recording = (my) => ({
  told: "",
  toldSub: "",
  toldTone: "",

  // What was held down.
  held(name) {
    if (this.screen === "sheet" && !this.told) this.keepField({ pad: this.padRows[0]?.text, text: this.text, choose: this.picked, none: "" }[name]);
    if (this.screen !== "act" || this.told) return;
    if (name === "why" && my.pendingCould.isNote) {
      this.keepNote(this.why.trim());
      return;
    }
    const made = {
      main: () => this.answers.hold.fields,
      no: () => this.answers.no.fields,
      agree: () => this.answers.agree.fields,
      pad: () => this.padFields(),
      ring: () => this.ringFields(),
      text: () => this.textFields(),
      why: () => this.whyFields(),
    }[name]();
    this.record(made, { from: name });
  },

  textFields() {
    const fields = { ...this.answers.seen, [my.textName]: this.text.trim() };
    if (my.textName === "reason") fields.value = this.answers.why.fields.value;
    return fields;
  },

  whyFields() {
    return { ...my.pendingCould.fields, reason: this.why.trim() };
  },

  // Records an answer on the phone. What asks for a tool gets one first.
  async record(fields, { from = "", act: named = "" } = {}) {
    const id = named || (from === "why" && my.pendingCould.act) || this.current;
    const act = my.house.act(id);
    const asked = toolAsked(act);
    if (asked && !fields.could_not) {
      const tool = this.keptTool(act);
      if (!tool && asked.required) {
        my.pending = () => this.record(fields, { from, act: named });
        this.openTools();
        return;
      }
      fields = { ...fields, tool };
    }
    await this.keepRecord(id, fields);
  },

  // A note on the card of what is in hand: on the phone first, like everything.
  async keepNote(text) {
    if (this.working) return;
    this.working = true;
    try {
      await this.putItem(this.current, noteAt(this.job, this.current), { text });
      this.tell("Noted", "ok", "who plans takes it to the card");
      this.begin();
    } catch (failed) {
      this.tellFull(failed);
    } finally {
      this.working = false;
    }
  },

  // What was answered goes to the store of the phone, and is sent when it may be.
  async putItem(id, action, fields) {
    const { house, phone } = my;
    const now = Date.now();
    const item = {
      id: freshId(), kind: "record", who: phone.me ? phone.me.who : house.carried.person.name, at: now, state: "waiting", from: now + BACK_MS,
      action, fields, title: house.act(id).title, job: this.job, act: id, under: house.bag.revision, knew: house.known(id), device: phone.sender.device,
    };
    const lasting = await phone.items.put(item);
    delete my.ticks[id];
    delete my.typed[id];
    if (!lasting) item.from = 0;
    await this.release(item.id);
    await this.count();
    return { item, lasting };
  },

  async keepRecord(id, fields) {
    if (this.working) return;
    this.working = true;
    try {
      await this.keepItem(id, fields);
    } catch (failed) {
      this.tellFull(failed);
    } finally {
      this.working = false;
    }
  },

  async keepItem(id, fields) {
    const act = my.house.act(id);
    const { item, lasting } = await this.putItem(id, recordAt(this.job, id), fields);
    const { word, tone } = wordOf(act, fields, item.at);
    const provisional = act.kind === "sign-off" ? "provisional until the server has taken it" : "";
    this.tell(word, tone, lasting ? provisional : "this browser keeps nothing: do not close it");
    this.drain(item);
    my.outOfTurn = "";
    this.forward(id, tone);
  },

  tellFull(failed) {
    const isFull = failed && failed.name === "QuotaExceededError";
    this.trouble = isFull
      ? "This phone is full: nothing was kept of this answer. Nothing that waits was dropped. Make room on the phone, or send what waits, then record it again."
      : "This could not be kept on the phone, and was not sent. Record it again; if it stays so, write it down on paper.";
    this.tell("Not kept", "bad", "");
  },

  // One large word as an answer, and the phone says it to the hand.
  tell(word, tone, sub) {
    this.told = word;
    this.toldSub = sub;
    this.toldTone = tone;
    if (navigator.vibrate) navigator.vibrate(BUZZ[tone] || BUZZ.ok);
    clearTimeout(my.telling);
    my.telling = setTimeout(() => {
      this.told = "";
    }, TOLD_MS);
  },

  // Who has read it goes on at once.
  toldSeen() {
    clearTimeout(my.telling);
    this.told = "";
  },

  // On to what is next; what is not good stays in hand.
  forward(id, tone) {
    this.rebuild();
    const stays = tone === "bad" || id !== this.current;
    const next = stays ? "" : my.house.next(id, my.house.at.get(id).id);
    this.answers = null;
    if (next && next !== this.current) this.goTo(next);
    else {
      this.freshAct();
      this.begin();
    }
  },

});
