// What waits on this phone, what was sent, and what needs somebody: each with its reason, beside what the plan says now.

import { aimOf } from "../known.js";
import { stripWords } from "../phone/settled.js";
import { saidWords } from "./answers.js";
import { tally } from "./tally.js";
import { clockOf } from "../times.js";

const MARKS = { sent: "clear", refused: "held", waiting: "open", "sign-in": "open" };
const WORDS = { sent: "sent", refused: "needs you", waiting: "waiting", "sign-in": "sign in to send" };
const DAY_MS = 86400000;
const COUNT_MS = 250;
// What somebody has begun in a row.
const typedIn = (row) => (row ? { asksWhy: row.asksWhy, why: row.why, others: row.others } : {});
const GONE = "It is no act of this plan any more.";

export const outbox = (my) => ({
  waiting: [],
  needing: [],
  kept: [],
  sentWords: "",
  outboxWords: "",
  fullWords: "",

  // What waits, counted anew: the strip of every page.
  async count() {
    my.items = await my.phone.items.all();
    this.waiting = my.items.filter((item) => item.state !== "sent");
    const offline = navigator.onLine === false || !my.phone.isHeard;
    const full = await my.phone.full();
    const { isOver } = my.phone;
    this.netWords = stripWords(my.items, { offline, full, isOver }) || (isOver ? "Sign in again" : "Signal");
    const needs = this.waiting.some((item) => item.state === "refused" && item.isMine);
    this.netTone = needs ? "needs" : offline ? "off" : this.waiting.length ? "part" : "on";
    this.fullWords = full >= 0.8 ? "This phone is " + Math.round(full * 100) + " % full: send what waits, or make room. Nothing is dropped." : "";
    if (this.screen === "outbox") this.drawOutbox();
  },

  openOutbox() {
    if (my.house) this.goTo("outbox");
  },

  async showOutbox() {
    this.screen = "outbox";
    this.stationTitle = "Outbox";
    this.placeWords = "";
    this.whereWords = "All stations";
    this.mark = "open";
    this.returnWords = this.current ? "‹ " + this.titleOf(this.current) : "Stations";
    await this.count();
    this.drawOutbox();
    await this.bagged();
    if (this.$refs.tally) tally(this.$refs.tally, my.house);
  },

  drawOutbox() {
    const mine = my.items.filter((item) => item.isMine);
    const others = this.waiting.filter((item) => !item.isMine);
    const sent = mine.filter((item) => item.state === "sent" && Date.now() - item.sentAt < DAY_MS);
    const needs = mine.filter((item) => item.state === "refused");
    const waits = mine.filter((item) => item.state === "waiting" || item.state === "sign-in");
    this.sentWords = sent.length + " sent today";
    const said = [];
    if (needs.length) said.push(needs.length + (needs.length === 1 ? " needs you." : " need you."));
    said.push(waits.length ? waits.length + (waits.length === 1 ? " waits" : " wait") + " for signal, under your name." : "Nothing of yours waits.");
    const whose = [...new Set(others.map((item) => item.who || "nobody named"))];
    if (others.length) said.push(others.length + " of " + whose.join(", ") + ": closed, until they sign in here.");
    this.outboxWords = said.join(" ");
    // What somebody types into a row stays in it.
    const before = new Map(this.needing.map((row) => [row.id, row]));
    this.needing = needs.map((item) => ({ ...this.needRow(item), ...typedIn(before.get(item.id)) }));
    this.kept = [...waits, ...sent].toSorted((a, b) => (a.state === "sent") - (b.state === "sent") || b.at - a.at).map((item) => this.keptRow(item));
  },

  wordsOf(item) {
    if (item.kind === "photo") return "picture";
    const act = my.house && my.house.act(item.act || aimOf(item.action)?.act);
    if (item.fields?.take_back) return "taken back";
    return act ? saidWords(act, item.fields) : Object.values(item.fields || {}).filter((value) => value.length < 40).join(", ");
  },

  keptRow(item) {
    const late = item.defects && item.defects.length ? ", " + item.defects[0] : "";
    return { id: item.id, title: item.title || "A record", said: this.wordsOf(item) + late, mark: MARKS[item.state], word: WORDS[item.state], time: clockOf(item.at) };
  },

  needRow(item) {
    const id = item.act || aimOf(item.action)?.act;
    return {
      id: item.id,
      act: id,
      title: item.title || "A record",
      time: clockOf(item.at),
      reason: item.reason,
      said: this.wordsOf(item),
      told: (item.who || "nobody named") + ", " + clockOf(item.at),
      ...this.planNow(item, id),
      againWords: item.asks ? "Keep it as it is" : "File it again as it is",
      againSub: item.asks ? "it was meant so" : "under the plan as it is now",
      field: "why-" + item.id,
      asksWhy: false,
      why: "",
      problem: "",
      others: [],
    };
  },

  // What the plan says of that act now, and what is on record of it.
  planNow(item, id) {
    if (!my.house || item.job !== this.job) return { now: "another house", stands: "" };
    if (!my.house.has(id)) return { now: GONE, stands: "" };
    const { aim } = my.house.bag.cards[id];
    const last = my.house.last(id);
    const asked = aim.digits ? aim.digits + " " + aim.unit : aim.asked || my.house.act(id).title;
    return { now: asked, stands: last ? last.words + ", " + last.by + ", " + clockOf(last.at) : "nothing on record" };
  },

  // The item itself, as it is kept: what is drawn of it is only drawn.
  itemOf(row) {
    return my.items.find((item) => item.id === row.id);
  },

  async sendNow() {
    this.working = true;
    await this.hear();
    await my.phone.send();
    this.working = false;
    await this.count();
    if (my.phone.isHeard) await this.refresh();
  },

  // One of them got its answer.
  sentOne({ said }) {
    if (!said.kept && said.state === "refused" && navigator.vibrate) navigator.vibrate([200, 80, 200]);
    if (!said.kept && said.state === "waiting") my.phone.isHeard = false;
    // Many may leave at once: they are counted together.
    clearTimeout(my.counting);
    my.counting = setTimeout(() => this.count(), COUNT_MS);
  },
});
