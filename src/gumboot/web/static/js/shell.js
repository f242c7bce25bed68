// What every page has: workings that open, fields that are led to, focus that stays where it was, keys, and the dark.

import { keyOf, stationOfField } from "./keys.js";
import { isDark, setLight } from "./light.js";
import { toHand } from "./posture.js";

const NARROW = 1024;
// The job and the station that the page is about: a station, or one act of it.
const about = () => document.querySelector("[data-job]")?.dataset;
const click = (selector) => document.querySelector(selector)?.click();

// A field in a part that is folded away is unfolded before anyone is led to it.
function reveal(field) {
  for (let part = field.closest("details"); part; part = part.parentElement.closest("details")) part.open = true;
  field.focus();
  field.scrollIntoView({ block: "center" });
}

// A question's link names its field: on this page, or on the one that it leads to.
function revealNamed() {
  const field = location.hash.startsWith("#f-") && document.getElementById(location.hash.slice(1));
  if (field) reveal(field);
}

// Parts that are asked for later are not counted: they are not there yet when the picture is new.
const FOCUSED = ["a", "button", "input:not([type=hidden])", "select", "[tabindex='0']"].map((one) => "#bench " + one).join(", ");
const reachable = () => [...document.querySelectorAll(FOCUSED)].filter((one) => !one.closest(".later"));

// The field of the year: arrows go from cell to cell.
function overField(event) {
  const cell = event.target.closest("g[data-cell]");
  const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
  if (!cell || !by) return false;
  const [row, column] = cell.dataset.cell.split("-").map(Number);
  const next = cell.ownerSVGElement.querySelector('g[data-cell="' + (row + by[0]) + "-" + (column + by[1]) + '"]');
  if (next) {
    cell.setAttribute("tabindex", "-1");
    next.setAttribute("tabindex", "0");
    next.focus();
  }
  event.preventDefault();
  return true;
}

export const shell = () => ({
  asked: false,
  leading: "",
  focused: "",
  load: "",
  place: -1,

  init() {
    toHand();
    document.addEventListener("click", (event) => this.clicked(event));
    document.addEventListener("keydown", (event) => this.pressed(event));
    document.addEventListener("htmx:before:swap", () => this.remember());
    document.addEventListener("htmx:after:swap", () => this.swapped());
    addEventListener("hashchange", revealNamed);
    addEventListener("load", revealNamed);
    revealNamed();
  },

  openWorking(key) {
    const here = about();
    if (!here) return;
    for (const field of document.querySelectorAll("[data-selected-figure]")) field.value = key;
    const { job, station } = here;
    const address = "/jobs/" + encodeURIComponent(job) + "/working?figure=" + encodeURIComponent(key) + "&station=" + station;
    window.htmx.ajax("GET", address, { target: "#working", swap: "innerHTML" });
  },

  clicked(event) {
    if (event.target.closest("[data-figure], [hx-target='#working']")) this.asked = true;
    const opener = event.target.closest("[data-figure]");
    if (opener) {
      this.openWorking(opener.dataset.figure);
      return;
    }
    const cure = event.target.closest("[data-cure]");
    if (cure) this.lead(event, cure);
  },

  // To the field that answers, or to the station where it is.
  lead(event, cure) {
    const mark = "f-" + cure.dataset.cure.replaceAll(".", "-");
    const field = document.getElementById(mark);
    event.preventDefault();
    if (field) reveal(field);
    else window.location.href = "/jobs/" + encodeURIComponent(about().job) + "/" + stationOfField(cure.dataset.cure) + "#" + mark;
  },

  // A redraw must not throw the keyboard back to the top.
  remember() {
    const at = document.activeElement;
    this.focused = at ? at.id : "";
    this.load = at?.dataset?.load || "";
    this.place = reachable().indexOf(at);
  },

  // Focus returns to the same element, or to the same place in order; on a phone who asked for the panel beside is led down to it.
  swapped() {
    const again =
      (this.load && document.querySelector('g.tag[data-load="' + this.load + '"]')) ||
      (this.focused && document.getElementById(this.focused)) ||
      (this.place >= 0 && document.activeElement === document.body && reachable()[this.place]);
    if (again && document.activeElement !== again) again.focus({ preventScroll: true });
    if (this.asked && window.innerWidth < NARROW) document.getElementById("working")?.scrollIntoView({ block: "start" });
    this.asked = false;
  },

  keys() {
    document.getElementById("keys")?.showModal();
  },

  pressed(event) {
    if (event.defaultPrevented || overField(event)) return;
    const opener = event.target.closest("g[data-figure]");
    if (opener && (event.key === "Enter" || event.key === " ")) {
      event.preventDefault();
      this.openWorking(opener.dataset.figure);
      return;
    }
    if (event.target.closest("input, select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
    const { act, leading } = keyOf(event.key, this.leading);
    this.leading = leading;
    if (act) this.act(act);
  },

  act({ name, digit }) {
    const links = [...document.querySelectorAll("[data-station-link]")];
    const here = links.findIndex((link) => link.getAttribute("aria-current") === "page");
    const acts = {
      before: () => links[here - 1]?.click(),
      after: () => here >= 0 && links[here + 1]?.click(),
      station: () => links[(digit + 9) % 10]?.click(),
      undo: () => click('form[action$="/undo"] button'),
      redo: () => click('form[action$="/redo"] button'),
      units: () => click("#units-key"),
      dark: () => setLight(isDark() ? "plain" : "dark"),
      keys: () => this.keys(),
    };
    acts[name]();
  },
});
