// A house as this phone knows it: what the server gave, and what was recorded here since. It tells what is next and how each act stands.

import { Gates } from "../gates.js";
import { aimOf } from "../known.js";
import { saidWords } from "./answers.js";

const DONE = new Set(["good", "cleared", "used"]);
const WORDS = { open: "open", good: "good", failed: "not good", cleared: "cleared", lapsed: "true no more", used: "used up", unsure: "to be judged" };
const SHAPES = { good: "clear", cleared: "clear", used: "clear", failed: "held", unsure: "part" };

const recordOf = (item) => ({ id: item.id, act: aimOf(item.action)?.act, fields: item.fields, at: item.at });

// The station of a sheet: "sheet:strings:S1".
export const isSheet = (id) => id.startsWith("sheet:");
export const stationOf = (id) => id.split(":")[1];

export class House {
  constructor({ acts, bag, heardAt }, items, now) {
    Object.assign(this, { carried: acts, bag, heardAt, now });
    this.gates = new Gates(acts);
    const job = bag.job.id;
    // What the server has not told of yet: what waits, and what it took since it was asked.
    const unheard = items.filter((item) => item.state !== "refused" && (item.state !== "sent" || item.sentAt > heardAt));
    this.mine = unheard.filter((item) => item.isMine && item.action && item.kind !== "photo" && aimOf(item.action)?.job === job);
    for (const item of this.mine) this.gates.add(recordOf(item));
    this.plan = bag.plan.stations;
    this.order = bag.stations.flatMap((station) => station.acts);
    this.at = new Map(bag.stations.flatMap((station) => station.acts.map((id) => [id, station])));
  }

  act(id) {
    return this.gates.acts.get(id);
  }

  has(id) {
    return this.at.has(id) && this.gates.acts.has(id) && Boolean(this.bag.cards[id]);
  }

  hasStation(id) {
    return this.bag.stations.some((station) => station.id === id);
  }

  // The sheets of a station of the plan, what is to mend first; none of another.
  sheets(station) {
    return this.plan[station] || [];
  }

  sheet(id) {
    return this.sheets(stationOf(id)).find((sheet) => sheet.id === id);
  }

  // What of a station is to mend or to answer next.
  nextSheet(station) {
    return this.sheets(station).find((sheet) => sheet.mark !== "clear")?.id || "";
  }

  // The next station of the plan in which something is to mend or to answer, after this one.
  nextOfPlan(station) {
    const ids = Object.keys(this.plan);
    const from = ids.indexOf(station) + 1;
    return [...ids.slice(from), ...ids.slice(0, from)].find((id) => this.nextSheet(id)) || "";
  }

  state(id, now = this.now) {
    return this.gates.state(id, now);
  }

  isDone(id) {
    return DONE.has(this.state(id));
  }

  // What was recorded last of an act: here, or by whom the server told of.
  last(id) {
    const mine = this.mine.findLast((item) => aimOf(item.action).act === id && !item.fields.take_back);
    if (mine) return { by: "you", at: mine.at, words: saidWords(this.act(id), mine.fields), id: mine.id, isMine: true };
    const told = (this.carried.said || {})[id];
    return told ? { by: told.by, at: Date.parse(told.at), words: told.words, id: told.id, isMine: told.doer === this.carried.person.name } : null;
  }

  // What was answered last on this phone, none where it was recorded elsewhere.
  lastFields(id) {
    return this.mine.findLast((item) => aimOf(item.action).act === id && !item.fields.take_back && !item.fields.could_not)?.fields || null;
  }

  // The record of an act that the server told of: what others did before it is known here, what is only here is not.
  known(id) {
    return (this.carried.said || {})[id]?.id || "";
  }

  // Why an act is not to be done now, in words; nothing where it may.
  held(id, now = this.now) {
    const said = this.gates.gate(id, now);
    const first = said.by.length ? this.gates.acts.get(said.by[0]) : null;
    const more = said.by.length > 1 ? ", and " + (said.by.length - 1) + " more" : "";
    return {
      open: null,
      unsure: { tone: "mind", words: "To be judged: whether it is in its turn, the server says.", first: null },
      held: first && { tone: "stop", words: "Held until: " + first.title + more + ".", first: this.placeOf(first) },
      "too early": { tone: "stop", words: "Too early: it comes " + this.act(id)?.hours_after + " h after " + (first ? first.title : "") + ".", first: null },
      "not yours": { tone: "stop", words: "Not yours to do: " + (this.act(id)?.who || []).join(" or ") + ".", first: null },
      unknown: { tone: "stop", words: "It is no act of this plan any more.", first: null },
    }[said.gate];
  }

  // Where an act is done: in the hand, or at what the plan still asks.
  placeOf(act) {
    if (this.has(act.id)) return act.id;
    return act.kind === "plan" ? this.nextSheet(this.nextOfPlan("")) || null : null;
  }

  others(id) {
    const place = this.bag.cards[id]?.place;
    const holding = (this.carried.holdings || {})[place];
    return holding && holding.name !== this.carried.person.name ? holding : null;
  }

  // Nobody waits for it now: it is optional, or comes a day later, or takes back what was never done.
  isAside(act) {
    if (act.kind === "off") return !act.undoes.some((id) => DONE.has(this.state(id))) && this.state(act.id) !== "failed";
    if (act.hours_after) return this.gates.isEarly(act, this.now);
    return act.is_optional;
  }

  // The next act that is open and may be done: after this one, then from the first on; of the station, then of all.
  next(after = "", station = "") {
    const own = station ? this.bag.stations.find((each) => each.id === station).acts : this.order;
    const from = own.indexOf(after) + 1;
    const found = [...own.slice(from), ...own.slice(0, from)].find((id) => this.isNext(id));
    return found || (station ? this.next(after) : "");
  }

  isNext(id) {
    const act = this.act(id);
    if (!act || act.kind === "off" || this.isAside(act) || this.isDone(id) || this.others(id)) return false;
    const { gate } = this.gates.gate(id, this.now);
    return gate === "open" || (gate === "unsure" && this.state(id) === "open");
  }

  count(station) {
    const asked = station.acts.map((id) => this.act(id)).filter((act) => act && !act.is_optional && !act.hours_after && act.kind !== "off");
    return { done: asked.filter((act) => this.isDone(act.id)).length, total: asked.length };
  }

  stations() {
    return this.bag.stations.map((station) => {
      const { done, total } = this.count(station);
      const told = (this.carried.stations || {})[station.id] || {};
      const open = total - done;
      const mark = station.acts.length && told.state !== "held" ? (open ? (done ? "part" : "open") : "clear") : told.state || "open";
      const words = station.acts.length ? done + " of " + total : told.word || "";
      return { id: station.id, title: station.title, leg: station.leg, mark, words, done, total };
    });
  }

  rows(stationId) {
    if (this.plan[stationId]) return headed(this.sheets(stationId).map(sheetRow));
    const station = this.bag.stations.find((each) => each.id === stationId);
    const shown = (station ? station.acts : []).filter((id) => this.has(id));
    return shown.filter((id) => this.act(id).kind !== "off" || !this.isAside(this.act(id))).map((id) => this.row(id));
  }

  row(id) {
    const state = this.state(id);
    const gate = this.isDone(id) ? "open" : this.gates.gate(id, this.now).gate;
    const last = this.last(id);
    const words = DONE.has(state) || state === "failed" || state === "unsure" ? (last ? last.words + " · " + last.by : WORDS[state]) : gate === "open" ? "" : "held";
    return { id, title: this.act(id).title, state, mark: SHAPES[state] || (gate === "held" ? "held" : "open"), words };
  }

  // Everything that a screen says of an act beside its card.
  view(id) {
    const act = this.act(id);
    const station = this.at.get(id);
    const state = this.state(id);
    const clearing = state === "failed" && id.startsWith("check:") ? "clear:" + id.slice("check:".length) : "";
    return {
      id,
      station: station.id,
      stationTitle: station.title,
      title: act.title,
      place: this.bag.cards[id].place,
      number: station.acts.indexOf(id) + 1,
      total: station.acts.length,
      state,
      word: WORDS[state],
      last: this.last(id),
      held: this.held(id),
      others: this.others(id),
      clearing: this.gates.acts.get(clearing)?.who.includes(this.carried.person.role) ? clearing : "",
    };
  }
}

// A group is named where it begins; what is to mend stands before all groups.
function headed(rows) {
  let before = "";
  for (const row of rows) {
    row.head = row.group === before ? "" : row.group;
    before = row.group;
  }
  return rows;
}

function sheetRow({ id, title, says, mark, cautions, group = "" }) {
  const minded = cautions ? cautions + (cautions === 1 ? " caution" : " cautions") : "";
  return { id, title, group, state: mark, mark: mark === "clear" && cautions ? "part" : mark, words: [minded, says].filter(Boolean).join(" · ") };
}
