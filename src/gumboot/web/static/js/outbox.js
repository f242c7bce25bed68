// Records of work. Each is written down on this device before it is sent, under its doer's name and time, and stays until the server has
// acknowledged it. What cannot be sent keeps its reason and holds up nothing behind it. The record's own id makes a second send harmless.

import { NEWS, redraw, sentHere } from "./drawn.js";
import { Known } from "./known.js";
import { Queue, freshId, lineOf, reasonOf, settled, stripWords } from "./queue.js";
import { NO_SIGNAL, WAIT_MS, send } from "./sending.js";

const AGAIN_MS = 20000;
const DEVICE = "gumboot-device";
const CARRIED = ["csrf", "record_id", "doer", "age_s", "under"];
const PLAIN = { Accept: "application/json" };

// A name of this device, made once: which phone a record was made on, and nothing of whose it is.
function deviceName() {
  try {
    const known = localStorage.getItem(DEVICE);
    if (known) return known;
    const made = (innerWidth < 600 ? "phone " : "screen ") + freshId().slice(0, 6);
    localStorage.setItem(DEVICE, made);
    return made;
  } catch {
    return "";
  }
}

const page = () => ({ who: document.body.dataset.who || "", csrf: document.body.dataset.csrf || "", device: deviceName() });
const timeOf = (at) => new Date(at).toLocaleString([], { day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit" });

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

export const outbox = () => ({
  queue: new Queue(localStorage),
  known: new Known(),
  warned: new Set(),
  busy: new Set(),
  sending: false,
  shown: false,
  opened: false,
  touched: false,
  words: "",
  rows: [],

  init() {
    this.show();
    document.addEventListener("submit", (event) => this.submitted(event));
    for (const name of ["htmx:error", "htmx:response:error"]) document.addEventListener(name, unsent);
    this.learn();
    document.addEventListener(NEWS, () => this.learn());
    addEventListener("online", () => this.sendOnce());
    addEventListener("offline", () => this.show());
    addEventListener("storage", () => this.show());
    setInterval(() => {
      if (this.queue.due(page().who, this.busy).length) this.sendOnce();
    }, AGAIN_MS);
    if (window.htmx) configure(window.htmx);
    this.sendOnce();
  },

  // What may be done here, to know it without signal too.
  learn() {
    this.known.later(document.querySelector("[data-job]:has(form[data-record])")?.dataset.job);
  },

  show() {
    const list = this.queue.all();
    const offline = navigator.onLine === false;
    this.rows = list.map((item) => lineOf(item, page().who, timeOf));
    this.words = stripWords(list, offline);
    this.shown = Boolean(this.words);
    if (!this.touched) this.opened = this.rows.some((row) => row.needs);
  },

  toggled() {
    this.touched = true;
    this.opened = this.$el.open;
  },

  again(row) {
    this.queue.again(row.id, page().who, Date.now());
    this.sendOnce();
  },

  discard(row) {
    if (!row.sure) {
      row.sure = true;
      return;
    }
    this.queue.drop(row.id);
    this.show();
  },

  // Sent by one tab at a time.
  sendOnce() {
    if (!navigator.locks) return this.sendKept();
    return navigator.locks.request("gumboot-kept", { ifAvailable: true }, (lock) => (lock ? this.sendKept() : null));
  },

  async sendKept() {
    const who = page().who;
    if (this.sending || !who) {
      this.show();
      return;
    }
    this.sending = true;
    try {
      for (const item of this.queue.due(who, this.busy)) this.settle(item, await send(item, page(), PLAIN));
    } finally {
      this.sending = false;
      this.show();
    }
  },

  settle(item, answer) {
    const { kept, state } = settled(answer);
    if (kept) this.taken(item);
    else this.queue.mark(item.id, state, reasonOf(answer));
    this.show();
  },

  taken(item) {
    this.known.taken(item, Date.now());
    if (!this.known.given) this.learn();
    this.queue.drop(item.id);
  },

  submitted(event) {
    const form = event.target.closest("form[data-record]");
    if (!form) return;
    event.preventDefault();
    this.record(form, event.submitter);
  },

  async record(form, button) {
    const fields = Object.fromEntries(new FormData(form, button));
    for (const carried of CARRIED) delete fields[carried];
    const action = form.getAttribute("action");
    const title = form.dataset.record || "A record";
    const item = { id: idOf(form, fields), action, fields, who: page().who, at: Date.now(), title, state: "waiting", reason: "not sent yet" };
    item.under = form.closest("[data-revision]")?.dataset.revision || "";
    if (this.busy.has(item.id)) return;
    const before = this.queue.all().find((other) => other.id === item.id);
    if (before) item.at = before.at;
    this.busy.add(item.id);
    sentHere.add(item.id);
    form.setAttribute("aria-busy", "true");
    const safe = this.queue.put(item);
    tell(form, "sending", "pencil");
    const next = form.dataset.next !== undefined;
    const answer = await send(item, page(), next ? PLAIN : { "HX-Request": "true", Accept: "text/html" });
    this.busy.delete(item.id);
    this.answered(form, item, answer, { safe, next });
    form.removeAttribute("aria-busy");
  },

  // What an answer means where somebody waits for it.
  answered(form, item, answer, { safe, next }) {
    if (answer.ours && answer.status === 200) {
      this.taken(item);
      this.show();
      if (next) window.location.assign(JSON.parse(answer.text).next);
      else redraw(answer.text);
    } else if (answer.ours && answer.status === 422) {
      // Somebody is here to mend it, and what was typed stands in its field.
      this.queue.drop(item.id);
      this.show();
      if (next) tell(form, reasonOf(answer), "problem");
      else redraw(answer.text);
    } else {
      if (!next && answer.ours && answer.kind.startsWith("text/html")) answer.reason = bodyText(answer.text);
      this.unanswered(form, item, answer, safe);
    }
  },

  unanswered(form, item, answer, safe) {
    // Where no answer came in time, the server may have it.
    const gate = answer.reason === NO_SIGNAL ? this.known.verdict(this.queue.all(), item) : UNASKED;
    if (gate.isHeld && !this.warned.has(item.id)) {
      this.warned.add(item.id);
      this.queue.drop(item.id);
      this.show();
      tell(form, heldText(gate.words), "problem");
      return;
    }
    this.settle(item, answer);
    const kept = safe ? "kept on this phone, not sent: " : "not sent and not kept, this phone's store is full: ";
    const words = kept + reasonOf(answer) + (gate.words && !gate.isHeld ? ". " + gate.words : "");
    tell(form, words, safe ? "ok" : "problem");
  },
});
