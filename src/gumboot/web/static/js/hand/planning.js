// A sheet of the plan in hand: its picture, what is found and worked out, and its fields, one of which is decided at a time.

import { decide } from "../phone/deciding.js";
import { stationOf } from "./house.js";

const NUMBERS = new Set(["number", "whole"]);
const UNHEARD = "No signal: the plan is changed where there is signal. It can be read here.";
const OVER = "Sign in again to change the plan.";

export const planning = (my) => ({
  fields: [],
  field: null,
  picked: "",
  mayDecide: false,
  decideWords: "",
  decided: "",
  keepWords: "",

  // The sheet of a name, from its beginning.
  showSheet(id) {
    const sheet = this.rebuild().sheet(id);
    if (!sheet) {
      // What it was of may be decided otherwise since.
      if (my.house.hasStation(stationOf(id))) this.showList(stationOf(id));
      else this.notHere(id);
      return;
    }
    const isNew = this.current !== id || this.screen !== "sheet";
    this.current = id;
    this.screen = "sheet";
    if (isNew) {
      this.trouble = "";
      this.closeField();
      this.emptied();
      this.$refs.page.scrollTop = 0;
    }
    if (isNew || this.$refs.card.dataset.made !== sheet.html) {
      this.$refs.card.innerHTML = sheet.html;
      this.$refs.card.dataset.made = sheet.html;
      this.picture(sheet);
    }
    this.freshSheet(sheet);
    // A question that nobody has answered is asked at once.
    if (isNew && sheet.mark === "open" && sheet.fields.length === 1) this.change(sheet.fields[0].path);
  },

  // Nothing of an act is left on the glass.
  emptied() {
    Object.assign(this, { hasEnding: false, hasPhotos: false, heldWords: "", heldFirst: "", mayOutOfTurn: false, isHeld: false, lastWords: "", boxWords: "", two: [], missing: [] });
    Object.assign(this, { answers: null, toolWords: "", holdWords: "", otherWords: "", noWords: "", couldWords: "", agreeWords: "", whyWords: "", photoWords: "", choices: [], coulds: [] });
  },

  freshSheet(sheet) {
    const station = my.house.stations().find((each) => each.id === stationOf(sheet.id));
    const ids = my.house.sheets(station.id).map((each) => each.id);
    const at = ids.indexOf(sheet.id);
    my.station = station.id;
    this.title = sheet.title;
    this.stationTitle = station.title;
    this.mark = station.mark;
    this.placeWords = at + 1 + " of " + ids.length;
    this.whereWords = station.title + ", " + this.placeWords + ": all of the station";
    this.turns(ids[at - 1] || "", ids[at + 1] || "", at);
    this.fields = sheet.fields;
    this.mayChange(sheet);
  },

  mayChange(sheet) {
    const { house, phone } = my;
    const { role } = house.carried.person;
    const { editors } = house.bag.plan;
    const heard = phone.isHeard && navigator.onLine !== false;
    const against = !editors.includes(role) ? "You read the plan as " + role + ": " + editors.join(", ") + " change it." : phone.isOver ? OVER : heard ? "" : UNHEARD;
    this.mayDecide = !against;
    this.decideWords = sheet.fields.length ? against : "";
  },

  // A field is opened: the pad for a number, its answers for a choice, else letters.
  change(path) {
    if (!this.mayDecide) return;
    const field = this.fields.find((each) => each.path === path);
    this.field = field;
    my.base = my.house.bag.revision;
    this.decided = "";
    if (field.options) {
      this.picked = field.text;
      this.mode = "choose";
    } else if (NUMBERS.has(field.kind)) {
      const row = { name: "value", words: field.words, unit: field.unit, units: [], stands: field.text, isText: false };
      this.answers = { pad: { rows: [row], over: false, signed: true }, begins: "pad" };
      this.openPad(true);
      this.mode = "pad";
    } else {
      this.textWords = field.words + (field.unit ? ", " + field.unit : "");
      this.text = field.text;
      this.mayScan = false;
      this.mode = "text";
    }
    this.mayLeavePad = true;
    this.freshPick();
  },

  closeField() {
    this.field = null;
    this.answers = null;
    this.mode = "main";
    this.decided = "";
  },

  pick(option) {
    this.picked = option;
    this.freshPick();
  },

  freshPick() {
    if (!this.field) return;
    const { text, empty } = this.field;
    this.keepWords = this.picked !== text ? "Keep " + (this.picked || empty) : text ? "Choose another" : "Choose one";
  },

  // What was held down is one revision of the plan.
  async keepField(typed) {
    if (this.working || !this.field) return;
    this.working = true;
    const said = await decide(this.job, { path: this.field.path, typed, base: my.base, csrf: my.phone.me.csrf });
    this.working = false;
    if (said.status === 200) await this.keptField(said);
    else this.notKept(said);
  },

  async keptField(said) {
    const { current } = this;
    const was = my.house.sheet(current);
    this.tell("Kept", "ok", "revision " + said.revision);
    this.closeField();
    await this.refresh();
    if (my.house.bag.revision < said.revision) this.trouble = "It is kept as revision " + said.revision + ". What follows from it is shown where there is signal again.";
    const now = my.house.sheet(current);
    const isAnswered = was.mark === "open" && (!now || now.mark !== "open");
    const next = isAnswered ? my.house.nextSheet(stationOf(current)) : "";
    if (next && next !== current) this.goTo(next);
    else if (!now) this.goTo(stationOf(current));
  },

  // What was typed stays; why it was not taken stands beside it.
  notKept(said) {
    const words = {
      // It may have arrived though its answer did not.
      0: "No answer: whether it was changed is seen where there is signal. What you typed stays here.",
      401: "Your session is over: sign in again, then change it.",
      409: said.by + " changed the same field meanwhile. Leave it and look at what it is now, or keep yours again.",
    }[said.status];
    this.decided = words || said.words || "The server answered " + said.status + ".";
    if (said.status === 409) {
      this.refresh().then(() => {
        my.base = my.house.bag.revision;
      });
    }
    this.tell(said.status ? "Not kept" : "No answer", said.status ? "bad" : "mind", "");
  },
});
