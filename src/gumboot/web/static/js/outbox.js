// Records of work at the bench. Each is written down on this device before it is sent, under its doer's name and time, and stays until the
// server has acknowledged it. What cannot be sent keeps its reason and holds up nothing behind it. The record's own id makes a second send harmless.

import { NEWS, redraw, sentHere } from "./drawn.js";
import { Known } from "./known.js";
import { Phone, hireWorker } from "./phone/phone.js";
import { freshId } from "./phone/items.js";
import { forgetMe } from "./phone/person.js";
import { NO_SIGNAL, WAIT_MS, sendOne } from "./phone/sending.js";
import { lineOf, reasonOf, settled, stripWords } from "./phone/settled.js";
import { noteMoment, timeOf } from "./times.js";

const AGAIN_MS = 20000;
const LEAST_REASON = 10;
const CARRIED = ["csrf", "record_id", "doer", "age_s", "under"];

const page = () => ({ who: document.body.dataset.who || "", csrf: document.body.dataset.csrf || "" });

// The same answers on the same form are the same record, however often they are tapped.
const ids = new WeakMap();
function idOf(form, fields) {
  const known = ids.get(form) || new Map();
  ids.set(form, known);
  const key = JSON.stringify(fields);
  if (!known.has(key)) known.set(key, known.size ? freshId() : form.elements.record_id.value || freshId());
  return known.get(key);
}

// What became of a form, said in it.
function tell(form, words, tone) {
  let place = form.querySelector(".told");
  if (!place) {
    place = document.createElement("p");
    place.setAttribute("role", "status");
    form.append(place);
  }
  place.className = "told " + tone;
  place.textContent = words;
}

const bodyText = (html) => new DOMParser().parseFromString(html, "text/html").body.innerText.trim().slice(0, 200);

// A plan's field that could not be sent says so where it was typed.
function unsent(event) {
  const form = event.target.closest ? event.target.closest("form") : null;
  const status = event.detail?.ctx?.response?.status || 0;
  if (!form || form.dataset.record !== undefined || (status && status < 500 && status !== 413)) return;
  const why = status ? "the server answered " + status : "no signal or no answer";
  tell(form, "Not saved: " + why + ". What you typed stands here; send it again.", "problem");
}

function configure({ config }) {
  // What another server answers is never drawn into the page.
  config.noSwap.push("413", "50x");
  config.defaultTimeout = WAIT_MS;
  // What is drawn answers at once: with a delay there is a moment in which a new button is seen and does nothing.
  config.defaultSettleDelay = 0;
}

// Without an answer a phone says what it knows.
const UNASKED = { isHeld: false, words: "" };
const heldText = (why) =>
  "No signal, and nothing was kept here: as far as this phone knows, " + why + ". Leave it. If it is done already, send it again: it is kept then, as done out of its turn.";

export const outbox = () => {
  const my = { phone: null, known: new Known(), items: [], warned: new Set(), busy: new Set(), isSure: false };
  return Object.assign({}, strip(my), recording(my));
};

// The strip over every page: what waits, and who is needed.
const strip = (my) => ({
  shown: false,
  opened: false,
  touched: false,
  words: "",
  rows: [],

  async init() {
    my.phone = new Phone({ heard: ({ item, said }) => this.heard(item, said) });
    my.phone.sender.busy = my.busy;
    this.listen();
    hireWorker();
    await my.phone.begin();
    await my.phone.letGo();
    // A page is drawn for who is signed in: what is kept here for another is closed to them.
    const { who, csrf } = page();
    if (!my.phone.me || my.phone.me.who !== who || my.phone.me.csrf !== csrf) await my.phone.settle();
    await my.phone.items.drain(localStorage);
    await my.phone.items.tidy(Date.now());
    await this.send();
  },

  listen() {
    document.addEventListener("submit", (event) => this.submitted(event));
    document.addEventListener("input", (event) => noteMoment(event.target, Date.now()));
    for (const name of ["htmx:error", "htmx:response:error"]) document.addEventListener(name, unsent);
    this.learn();
    document.addEventListener(NEWS, () => this.learn());
    addEventListener("online", () => this.send());
    addEventListener("offline", () => this.show());
    setInterval(() => this.again20(), AGAIN_MS);
    if (window.htmx) configure(window.htmx);
  },

  // What may be done here, to know it without signal too.
  learn() {
    my.known.later(document.querySelector("[data-job]:has(form[data-record])")?.dataset.job);
  },

  async again20() {
    const due = my.phone ? await my.phone.items.due(page().who, Date.now()) : [];
    if (due.length) this.send();
    else this.show();
  },

  async send() {
    if (page().who) await my.phone.send();
    await this.show();
  },

  async show() {
    if (!my.phone) return;
    my.items = await my.phone.items.all();
    const kept = my.items.filter((item) => item.state !== "sent");
    // What somebody types into a line stays in it.
    const before = new Map(this.rows.map((row) => [row.id, row]));
    this.rows = kept.map((item) => (before.get(item.id)?.sure ? before.get(item.id) : lineOf(item, page().who, timeOf)));
    this.words = stripWords(my.items, { offline: navigator.onLine === false, full: await my.phone.full() });
    this.shown = Boolean(this.words);
    if (!this.touched) this.opened = this.rows.some((row) => row.needs);
  },

  heard(item, said) {
    if (said.kept) this.taken(item);
    this.show();
  },

  taken(item) {
    my.known.taken(item, Date.now());
    if (!my.known.given) this.learn();
  },

  toggled() {
    this.touched = true;
    this.opened = this.$el.open;
  },

  async again(row) {
    const item = my.items.find((each) => each.id === row.id);
    const now = { state: "waiting", from: 0, who: item.who || page().who, at: item.at || Date.now(), sure: Boolean(item.asks) || item.sure };
    await my.phone.items.mark(row.id, now);
    await this.send();
  },

  // What leaves without being filed leaves a record of that; only what nobody named is dropped as it came.
  async discard(row) {
    if (!row.sure) {
      row.sure = true;
      return;
    }
    if (row.why.trim().length < LEAST_REASON) {
      row.problem = "Say why in at least " + LEAST_REASON + " characters.";
      return;
    }
    await my.phone.setAside(my.items.find((each) => each.id === row.id), row.why.trim(), { who: page().who });
    await this.send();
  },
});

const recording = (my) => ({
  submitted(event) {
    if (event.target.getAttribute("action") === "/sign-out") this.leaving(event);
    const form = event.target.closest("form[data-record]");
    if (!form) return;
    event.preventDefault();
    this.record(form, event.submitter);
  },

  // Who signs out leaves what waits closed to others; it says so once.
  leaving(event) {
    const waits = my.items.filter((item) => item.isMine && item.state !== "sent").length;
    if (my.isReady) return;
    event.preventDefault();
    if (waits && !my.isSure) {
      my.isSure = true;
      tell(event.target, waits + " of yours wait on this device: they stay, closed to others, and leave when you sign in here again. Once more to sign out.", "problem");
      return;
    }
    my.isReady = true;
    forgetMe().finally(() => location.assign("/sign-in"));
  },

  async record(form, button) {
    const fields = Object.fromEntries(new FormData(form, button));
    for (const carried of CARRIED) delete fields[carried];
    const sure = fields.sure === "yes";
    delete fields.sure;
    const id = idOf(form, { ...fields, sure });
    if (my.busy.has(id)) return;
    my.busy.add(id);
    sentHere.add(id);
    form.setAttribute("aria-busy", "true");
    tell(form, "sending", "pencil");
    const before = await my.phone.items.get(id);
    const item = {
      id, kind: "record", action: form.getAttribute("action"), fields, sure, who: page().who, at: before ? before.at : Date.now(), title: form.dataset.record || "A record",
      state: "waiting", reason: "not sent yet", from: 0, device: my.phone.sender.device, under: form.closest("[data-revision]")?.dataset.revision || "",
    };
    const safe = await my.phone.items.put(item).catch(() => false);
    const next = form.dataset.next !== undefined;
    const headers = next ? {} : { "HX-Request": "true", Accept: "text/html" };
    const answer = await sendOne(item, { csrf: page().csrf, device: item.device, skew: my.phone.me?.skew }, { headers });
    my.busy.delete(id);
    await this.answered(form, item, answer, { safe, next });
    form.removeAttribute("aria-busy");
  },

  // What an answer means where somebody waits for it.
  async answered(form, item, answer, { safe, next }) {
    if (answer.ours && answer.status === 200) {
      await my.phone.items.mark(item.id, { state: "sent", sentAt: Date.now(), reason: "" });
      this.taken(item);
      await this.show();
      if (next) window.location.assign(JSON.parse(answer.text).next);
      else redraw(answer.text);
    } else if (answer.ours && answer.status === 422) {
      // Somebody is here to mend it, and what was typed stands in its field.
      await my.phone.items.drop(item.id);
      await this.show();
      if (next) tell(form, reasonOf(answer), "problem");
      else redraw(answer.text);
    } else {
      if (!next && answer.ours && answer.kind.startsWith("text/html")) answer.reason = bodyText(answer.text);
      await this.unanswered(form, item, answer, safe);
    }
  },

  async unanswered(form, item, answer, safe) {
    // Another tab may have kept something since; and where no answer came in time, the server may have it.
    my.items = await my.phone.items.all();
    const waiting = my.items.filter((other) => other.isMine && other.action && other.state !== "sent" && other.kind !== "photo");
    const gate = answer.reason === NO_SIGNAL ? my.known.verdict(waiting, item) : UNASKED;
    if (gate.isHeld && !my.warned.has(item.id)) {
      my.warned.add(item.id);
      await my.phone.items.drop(item.id);
      await this.show();
      tell(form, heldText(gate.words), "problem");
      return;
    }
    // The signal may have come back and the sender been quicker: what it filed does not wait again.
    const mine = my.items.find((other) => other.id === item.id);
    if (mine?.state === "sent") {
      await this.show();
      tell(form, "filed", "ok");
      return;
    }
    await my.phone.items.mark(item.id, { state: settled(answer).state, reason: reasonOf(answer) });
    await this.show();
    const kept = safe ? "kept on this phone, not sent: " : "not sent and not kept, this phone's store is full: ";
    const words = kept + reasonOf(answer) + (gate.words && !gate.isHeld ? ". " + gate.words : "");
    tell(form, words, safe ? "ok" : "problem");
    if (safe) my.phone.later();
  },
});
