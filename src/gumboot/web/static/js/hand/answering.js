// What is offered to the act in hand: the answer that is held, those beside it, the tool for the shift, what stood in the way.

import { REASONS } from "./answers.js";

export const answering = (my) => ({
  answers: null,
  holdWords: "",
  holdSub: "",
  otherWords: "",
  otherSub: "",
  photoWords: "",
  agreeWords: "",
  whyWords: "",
  noWords: "",
  couldWords: "",
  coulds: [],
  choices: [],
  reasons: REASONS,
  why: "",
  whyTitle: "",
  text: "",
  textWords: "",
  mayScan: false,
  mayLeavePad: false,
  mayNote: false,

  // The answers of an act at its beginning: nothing of the one before is left in them.
  begin() {
    my.pending = null;
    this.why = "";
    this.text = "";
    this.tick = false;
    const may = this.answers && this.screen === "act" && my.house.act(this.current).who.includes(my.house.carried.person.role);
    // Of what is held the card is read, not the keys that wait for it.
    this.mode = may && !this.isHeld ? this.answers.begins : "main";
    if (this.answers) this.openPad(this.answers.begins === "pad");
    if (this.mode === "ring") this.openRing();
    if (this.mode === "text") this.openText(this.answers.text);
    this.openTicks();
  },

  // What is offered now, by how the act stands.
  offer(view) {
    const act = my.house.act(this.current);
    const may = act.who.includes(my.house.carried.person.role);
    if (view.clearing && may) this.noClearing(view);
    const { hold, other, no, agree, why, could = [], choices } = may ? this.answers : { choices: [] };
    const words = (answer, name) => (answer ? answer[name] : "");
    this.holdWords = words(hold, "words");
    this.holdSub = words(hold, "sub");
    this.otherWords = words(other, "words");
    this.otherSub = words(other, "sub");
    this.noWords = words(no, "words");
    this.agreeWords = words(agree, "words");
    this.whyWords = words(why, "words");
    this.photoWords = may && act.kind === "photo" ? "Take the picture" : "";
    this.choices = choices;
    this.coulds = could;
    this.couldWords = this.couldWordsOf(act);
    this.mayLeavePad = Boolean(hold || other);
    this.mayNote = Boolean(my.house.bag.cards[this.current].aim.noted);
    if (!may) this.mode = "main";
    this.toolNow();
  },

  couldWordsOf(act) {
    if (!this.coulds.length) return "";
    if (act.kind === "torque") return "snug, moved, no tool";
    return this.noWords ? "with the reason" : "no tool, other reason";
  },

  // A licence holder clears a hold where the reading stands.
  noClearing(view) {
    this.answers.could = [{ words: "Clear the hold", sub: "with the reason: it is then as good", fields: {}, asksWhy: true, act: view.clearing }, ...this.answers.could];
  },

  backToMain() {
    if (this.screen === "sheet") {
      this.closeField();
      return;
    }
    if (!this.answers || this.isHeld) {
      this.mode = "main";
      return;
    }
    this.mode = this.answers.begins;
    if (this.mode === "ring") this.ringFresh();
    if (this.mode === "text") this.openText(this.answers.text);
  },

  openOther() {
    if (this.answers.other.text) this.openText(this.answers.other.text);
    else {
      this.openPad(true);
      this.mode = "pad";
    }
  },

  openText(name) {
    const act = my.house.act(this.current);
    const asked = act.inputs.find((each) => each.name === name);
    my.textName = name;
    this.textWords = asked ? asked.words : "";
    this.text = asked && asked.stands && act.kind !== "setting" ? asked.stands : "";
    this.mayScan = act.kind === "serial";
    this.mode = "text";
  },

  openWhy() {
    this.openText("reason");
  },

  openCould() {
    this.mode = "could";
  },

  chooseCould(row) {
    if (!row.asksWhy) {
      this.record(row.fields, { could: row.words });
      return;
    }
    my.pendingCould = row;
    this.whyTitle = row.act ? "Why may it go on?" : "Why could it not be done?";
    this.reasons = row.act ? [] : REASONS;
    this.why = "";
    this.mode = "why";
  },

  // What the next crew should know of the thing in hand: it waits for nothing, and opens nothing.
  openNote() {
    my.pendingCould = { isNote: true, fields: {} };
    this.whyTitle = "What should the next crew know of this?";
    this.reasons = [];
    this.why = "";
    this.mode = "why";
  },

  chooseWhy(words) {
    this.why = words;
  },

  chooseValue(words) {
    this.text = words;
    my.textName = "value";
    this.mode = "text";
  },

  // Somebody says that it is done already: it is kept as that, and opens nothing.
  outOfTurn() {
    my.outOfTurn = this.current;
    this.freshAct();
  },
});
