// The act that is in hand: its card, its picture, how it stands, and what holds it.

import { answersOf } from "./answers.js";
import { trueSize } from "./ending.js";
import { timeOf } from "../times.js";

const sentence = (words) => words.charAt(0).toUpperCase() + words.slice(1);
const TONES = { good: "ok", cleared: "ok", used: "ok", failed: "bad", lapsed: "bad", unsure: "mind" };

export const OVER = "Your session is over: what you record is kept here. Sign in again where there is signal, and it leaves.";

export const acting = (my) => ({
  current: "",
  title: "",
  hasLook: false,
  hasEnding: false,
  stripMm: "",
  stripIn: "",
  scaleWords: "",
  lastWords: "",
  lastTone: "",
  mayTakeBack: false,
  heldWords: "",
  heldTone: "",
  heldFirst: "",
  isHeld: false,
  mayOutOfTurn: false,
  two: [],
  missing: [],
  before: "",
  after: "",
  beforeWords: "",
  afterWords: "",

  // The act of a name, from its beginning.
  showAct(id) {
    const { house } = my;
    if (!house.has(id)) return;
    const isNew = this.current !== id || this.screen !== "act";
    this.current = id;
    this.screen = "act";
    const card = house.bag.cards[id];
    if (isNew) this.trouble = my.phone.isOver ? OVER : "";
    if (isNew && this.$refs.card) {
      this.$refs.card.innerHTML = card.html;
      this.$refs.card.dataset.made = "";
      this.fields = [];
      this.decideWords = "";
      this.$refs.page.scrollTop = 0;
      this.picture(card);
      this.ending(card);
    }
    this.freshAct();
    this.begin();
  },

  picture(card) {
    const { picture = "", at = [], isWhole = false } = card.look;
    const named = picture && my.house.bag.pictures[picture];
    const found = named && named.as ? my.house.bag.pictures[named.as] : named;
    this.hasLook = Boolean(found);
    if (found) my.look.show({ ...found, hasOwnRing: picture.startsWith("ends-"), name: picture, isWhole, isAll: picture.startsWith("lead-") }, at);
  },

  ending(card) {
    this.hasEnding = Boolean(card.ending);
    if (!card.ending) return;
    const [mm, inches] = card.strip;
    this.stripMm = mm;
    this.stripIn = inches;
    this.scaleWords = trueSize(this.$refs.ending, card.ending, this.glassWide() - 32);
  },

  // Measured once, and again when the glass is turned: measuring makes the browser lay out what it is about to change.
  glassWide() {
    my.wide ||= this.$refs.page.clientWidth;
    return my.wide;
  },

  // What may have changed of it since.
  freshAct() {
    const house = this.rebuild();
    const view = house.view(this.current);
    const act = house.act(this.current);
    const station = house.at.get(this.current);
    this.title = house.bag.cards[this.current].title;
    this.stationTitle = view.stationTitle;
    this.mark = house.stations().find((each) => each.id === station.id).mark;
    this.placeWords = (view.place ? view.place + ", " : "") + view.number + " of " + view.total;
    this.whereWords = view.stationTitle + ", " + this.placeWords + ": all acts of the station";
    const wasHeld = this.isHeld;
    this.holds(view, act);
    this.stood(view);
    this.neighbours(station);
    this.boxed(view);
    this.marks();
    this.pictures();
    const { said = {}, agree = {} } = house.carried;
    const told = { tool: this.keptTool(act), left: said[this.current]?.left, agree: agree[this.current], failed: view.state === "failed" };
    this.answers = answersOf(act, house.bag.cards[this.current], told);
    this.offer(view);
    // Nothing was typed while it was held: now its keys are there.
    if (wasHeld && !this.isHeld && this.mode === "main") this.begin();
  },

  holds(view, act) {
    const { held } = view;
    this.isHeld = Boolean(held && held.tone === "stop") || Boolean(view.others);
    this.heldWords = view.others ? view.others.display + " has it in hand." : held ? sentence(held.words) : "";
    this.heldTone = this.isHeld ? "stop" : "";
    this.heldFirst = held && held.first ? held.first : "";
    const may = act.who.includes(my.house.carried.person.role);
    this.mayOutOfTurn = Boolean(this.heldFirst) && may && !view.others;
    if (my.outOfTurn !== this.current || !this.mayOutOfTurn) return;
    this.isHeld = false;
    this.mayOutOfTurn = false;
    this.heldWords = "Done already: it is kept as done out of its turn, and opens nothing.";
  },

  stood(view) {
    const { last } = view;
    const isOpen = view.state === "open" && !last;
    const said = last ? this.saidOf(view, last) + ", " + last.by + ", " + timeOf(last.at) : "";
    this.lastWords = isOpen ? "" : sentence(view.word) + (said ? ": " + said : "") + ".";
    this.lastTone = TONES[view.state] || "";
    this.mayTakeBack = Boolean(last && last.isMine && Date.now() - last.at < 60000 && this.backId !== last.id);
    this.besides(view);
  },

  // What was said last; of a meter test what the server made of it, which says what to do.
  saidOf(view, last) {
    const { kind, why = "" } = my.house.act(view.id);
    return kind === "meter" && view.state === "failed" && why && !my.house.mine.length ? why.replace(/\.$/, "") : last.words;
  },

  // What a signature still lacks, and two values of one act.
  besides(view) {
    const { carried, mine } = my.house;
    const signs = view.id.startsWith("sign-off:") && !mine.length;
    this.missing = signs ? (carried.missing || []).filter((line) => view.id === "sign-off:job" || !line.includes("24 h check")) : [];
    this.two = ((carried.two || {})[this.current] || []).map((each) => ({ ...each, told: each.by + ", " + timeOf(each.at) }));
  },

  neighbours(station) {
    const acts = station.acts.filter((id) => my.house.has(id));
    const at = acts.indexOf(this.current);
    this.turns(acts[at - 1] || "", acts[at + 1] || "", at);
  },

  turns(before, after, at) {
    this.before = before;
    this.after = after;
    this.beforeWords = this.before ? "‹ " + at : "‹";
    this.afterWords = this.after ? at + 2 + " ›" : "›";
  },

  goBefore() {
    this.goTo(this.before);
  },

  goAfter() {
    this.goTo(this.after);
  },

  goHeld() {
    this.goTo(this.heldFirst);
  },
});
