// What others record appears on the page by itself, unless somebody is typing there: then a line says so and waits.

import { NEWS, drawnNow, redraw, sentHere } from "./drawn.js";
import { eventsAt } from "./addresses.js";

const AFTER_MS = 2000;
const TOGETHER_MS = 400;
const bench = () => document.getElementById("bench");
const FIELDS = "input:not([type=hidden]):not([type=radio]):not([type=checkbox]), textarea";

// Whether something stands in a field that was not there when the page was drawn.
function unsaved() {
  const at = document.activeElement;
  const typing = at && at.closest("#bench") && at.matches(FIELDS) ? [at] : [];
  const recording = document.querySelectorAll("#bench form[data-record] input:not([type=hidden]):not([type=radio])");
  return [...typing, ...recording].some((one) => one.value !== one.defaultValue);
}

export const live = () => ({
  words: "",
  stream: null,
  soon: 0,

  init() {
    document.addEventListener("visibilitychange", () => (document.hidden ? this.rest() : this.listen()));
    addEventListener("pagehide", () => this.rest());
    setTimeout(() => this.listen(), AFTER_MS);
  },

  // Open only while somebody looks: a browser lets a site have six connections, and a crew may have as many tabs.
  listen() {
    const here = bench();
    if (this.stream || !here || document.hidden || !window.EventSource) return;
    this.stream = new EventSource(eventsAt(here.dataset.job));
    this.stream.addEventListener("record", (event) => this.heard(JSON.parse(event.data)));
  },

  rest() {
    if (this.stream) this.stream.close();
    this.stream = null;
  },

  heard(note) {
    if (sentHere.has(note.id)) return;
    document.dispatchEvent(new Event(NEWS));
    clearTimeout(this.soon);
    this.soon = setTimeout(() => this.news(note), TOGETHER_MS);
  },

  // What somebody began to type while the page was on its way is not wiped either.
  async news(note) {
    const html = unsaved() ? "" : await drawnNow();
    if (html && !unsaved()) redraw(html);
    else this.words = note.by + " recorded something here. ";
  },

  async show() {
    const html = await drawnNow();
    if (!html) return;
    this.words = "";
    redraw(html);
  },
});
