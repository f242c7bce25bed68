"use strict";
// Small behaviours only: open a working, keep focus over a redraw, keys.

const NM = { "N m": 1, "lbf in": 0.1129848290276167, "lbf ft": 1.3558179483314004 };
const bench = () => document.getElementById("bench");

function openWorking(key) {
  const job = bench() && bench().dataset.job;
  if (!job) return;
  document.querySelectorAll("[data-selected-figure]").forEach((field) => { field.value = key; });
  const address = "/jobs/" + encodeURIComponent(job) + "/working?figure=" + encodeURIComponent(key) + "&station=" + bench().dataset.station;
  htmx.ajax("GET", address, { target: "#working", swap: "innerHTML" });
}

// On a phone the panel beside lies below: who asked for it is led there.
let asked = false;
document.addEventListener("htmx:after:swap", () => {
  if (asked && window.innerWidth < 1024) document.getElementById("working").scrollIntoView({ block: "start" });
  asked = false;
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-figure], [hx-target='#working']")) asked = true;
  const opener = event.target.closest("[data-figure]");
  if (opener) { openWorking(opener.dataset.figure); return; }
  const cure = event.target.closest("[data-cure]");
  if (cure) {
    const field = document.getElementById("f-" + cure.dataset.cure.replaceAll(".", "-"));
    event.preventDefault();
    if (field) reveal(field);
    else { window.location.href = cureStation(cure.dataset.cure); }
  }
  if (event.target.closest("#keys-button")) document.getElementById("keys").showModal();
});

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
window.addEventListener("hashchange", revealNamed);
window.addEventListener("load", revealNamed);

// A field that lives at another station: go there.
function cureStation(path) {
  const first = path.split(".")[0];
  const station = { site: "survey", backup: "survey", walls: "wall", loads: "loads", strings: "strings", faces: "strings", banks: "bank", things: "survey", runs: "circuits", sensing: "sensing", settings: "settings" }[first] || "survey";
  return "/jobs/" + encodeURIComponent(bench().dataset.job) + "/" + (/^banks\.[^.]+\.(units|lead|inverter_protocol)/.test(path) ? "links" : station) + "#f-" + path.replaceAll(".", "-");
}

// A redraw must not throw the keyboard back to the top: focus returns to the same element, or to the same place in order.
// Parts that are asked for later are not counted: they are not there yet when the picture is new.
const reachable = () => [...document.querySelectorAll("#bench a, #bench button, #bench input:not([type=hidden]), #bench select, #bench [tabindex='0']")].filter((one) => !one.closest(".later"));
let focused = "", place = -1, load = "";
document.addEventListener("htmx:before:swap", () => {
  focused = document.activeElement ? document.activeElement.id : "";
  load = document.activeElement && document.activeElement.dataset ? document.activeElement.dataset.load || "" : "";
  place = reachable().indexOf(document.activeElement);
});
document.addEventListener("htmx:after:swap", () => {
  const again = (load && document.querySelector('g.tag[data-load="' + load + '"]')) || (focused && document.getElementById(focused)) || (place >= 0 && document.activeElement === document.body && reachable()[place]);
  if (again && document.activeElement !== again) again.focus({ preventScroll: true });
});

// A load's tag is dragged across with a pointer, or moved with Enter, Space or an arrow.
function moveLoad(tag, side) {
  const form = document.querySelector('#f-loads-' + tag.dataset.load + '-side');
  if (!form || tag.dataset.side === side) return;
  form.value = side;
  form.dispatchEvent(new Event("change", { bubbles: true }));
}
let held = null;
document.addEventListener("pointerdown", (event) => {
  const tag = event.target.closest("g.tag");
  if (!tag || event.button > 0) return;
  held = { tag, x: event.clientX, y: event.clientY, scale: tag.ownerSVGElement.viewBox.baseVal.width / tag.ownerSVGElement.getBoundingClientRect().width };
  event.preventDefault();
  tag.focus({ preventScroll: true });
});
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  held.tag.setAttribute("transform", "translate(" + (event.clientX - held.x) * held.scale + " " + (event.clientY - held.y) * held.scale + ")");
  held.tag.classList.add("lifted");
});
function letGo(event) {
  if (!held) return;
  const { tag } = held;
  held = null;
  tag.removeAttribute("transform");
  tag.classList.remove("lifted");
  if (event.type === "pointercancel") return;
  // The column under the pointer, side by side on a bench and one above the other on a phone.
  const column = [...document.querySelectorAll(".column")].find((place) => {
    const box = place.getBoundingClientRect();
    return event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top - 20 && event.clientY <= box.bottom + 20;
  });
  if (column) moveLoad(tag, column.dataset.side);
}
document.addEventListener("pointerup", letGo);
document.addEventListener("pointercancel", letGo);

let leading = "";
document.addEventListener("keydown", (event) => {
  const tag = event.target.closest("g.tag");
  if (tag) {
    const side = event.key === "ArrowRight" ? "backed" : event.key === "ArrowLeft" ? "house" : event.key === "Enter" || event.key === " " ? (tag.dataset.side === "backed" ? "house" : "backed") : "";
    if (side) { event.preventDefault(); moveLoad(tag, side); return; }
  }
  const cell = event.target.closest("g[data-cell]");
  if (cell && event.key.startsWith("Arrow")) {
    const [row, column] = cell.dataset.cell.split("-").map(Number);
    const [down, right] = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
    const next = cell.ownerSVGElement.querySelector('g[data-cell="' + (row + down) + "-" + (column + right) + '"]');
    if (next) { cell.setAttribute("tabindex", "-1"); next.setAttribute("tabindex", "0"); next.focus(); }
    event.preventDefault();
    return;
  }
  const within = event.target.closest("input, select, textarea");
  const opener = event.target.closest("g[data-figure]");
  if (opener && (event.key === "Enter" || event.key === " ")) { event.preventDefault(); openWorking(opener.dataset.figure); return; }
  if (within && event.target.closest("[data-nudge]") && (event.key === "ArrowUp" || event.key === "ArrowDown")) { nudge(event); return; }
  if (within || event.ctrlKey || event.metaKey || event.altKey) return;
  const links = [...document.querySelectorAll("[data-station-link]")];
  const here = links.findIndex((link) => link.getAttribute("aria-current") === "page");
  if (leading === "g" && /^[0-9]$/.test(event.key)) { const target = links[(Number(event.key) + 9) % 10]; leading = ""; if (target) target.click(); return; }
  leading = event.key === "g" ? "g" : "";
  if (event.key === "?") { const keys = document.getElementById("keys"); if (keys) keys.showModal(); }
  if (event.key === "[" && here > 0) links[here - 1].click();
  if (event.key === "]" && here >= 0 && here + 1 < links.length) links[here + 1].click();
  if (event.key === "z") clickForm("undo");
  if (event.key === "y") clickForm("redo");
  if (event.key === "u") { const button = document.getElementById("units-key"); if (button) button.click(); }
  if (event.key === "d") dark(document.documentElement.dataset.theme !== "dark");
});

function clickForm(verb) {
  const form = document.querySelector('form[action$="/' + verb + '"] button');
  if (form) form.click();
}

function nudge(event) {
  event.preventDefault();
  const step = (event.shiftKey ? 10 : 1) * (event.key === "ArrowUp" ? 1 : -1);
  const value = Number(event.target.value);
  if (Number.isFinite(value)) { event.target.value = String(Math.round((value + step) * 100) / 100); event.target.dispatchEvent(new Event("change", { bubbles: true })); }
}

function dark(on) {
  if (on) document.documentElement.dataset.theme = "dark"; else delete document.documentElement.dataset.theme;
  try { localStorage.setItem("gumboot-dark", on ? "yes" : ""); } catch (refused) { /* private window: the theme lasts for this page */ }
}
try { if (localStorage.getItem("gumboot-dark")) dark(true); } catch (refused) { /* as above */ }

document.addEventListener("alpine:init", () => {
  // Pan and zoom of a large diagram: by wheel, drag, buttons and keys; the drawing's own view box moves.
  Alpine.data("zoomer", () => ({
    box: null,
    home: null,
    drag: null,
    init() {
      const view = this.$root.querySelector(".zoom-view"), svg = view.querySelector("svg");
      const v = svg.viewBox.baseVal;
      this.home = [v.x, v.y, v.width, v.height];
      this.box = [...this.home];
      view.addEventListener("wheel", (e) => { if (!e.ctrlKey && !e.shiftKey && this.box[2] === this.home[2]) return; e.preventDefault(); this.zoom(e.deltaY < 0 ? 1.15 : 1 / 1.15); }, { passive: false });
      view.addEventListener("pointerdown", (e) => { if (this.box[2] < this.home[2] - 1) this.drag = [e.clientX, e.clientY, ...this.box]; });
      view.addEventListener("pointermove", (e) => {
        if (!this.drag) return;
        const k = this.box[2] / svg.getBoundingClientRect().width;
        this.show(this.drag[2] - (e.clientX - this.drag[0]) * k, this.drag[3] - (e.clientY - this.drag[1]) * k, this.box[2]);
      });
      for (const name of ["pointerup", "pointerleave", "pointercancel"]) view.addEventListener(name, () => { this.drag = null; });
      view.addEventListener("keydown", (e) => {
        const step = this.box[2] / 12;
        const move = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
        if (e.key === "+" || e.key === "=") this.zoom(1.25);
        else if (e.key === "-") this.zoom(0.8);
        else if (e.key === "0") this.whole();
        else if (move && this.box[2] < this.home[2] - 1) this.show(this.box[0] + move[0], this.box[1] + move[1], this.box[2]);
        else return;
        e.preventDefault();
      });
    },
    show(x, y, width) {
      const w = Math.min(this.home[2], Math.max(this.home[2] / 6, width)), h = w * this.home[3] / this.home[2];
      this.box = [Math.min(Math.max(x, 0), this.home[2] - w), Math.min(Math.max(y, 0), this.home[3] - h), w, h];
      const view = this.$root.querySelector(".zoom-view");
      view.querySelector("svg").setAttribute("viewBox", this.box.join(" "));
      view.classList.toggle("zoomed", w < this.home[2] - 1);
    },
    zoom(by) {
      const [x, y, w, h] = this.box;
      this.show(x + (w - w / by) / 2, y + (h - h / by) / 2, w / by);
    },
    closer() { this.zoom(1.4); },
    farther() { this.zoom(1 / 1.4); },
    whole() { this.show(0, 0, this.home[2]); },
  }));
  Alpine.data("asked", () => ({
    rows: [],
    init() {
      this.load();
      this.keep();
      document.addEventListener("htmx:after:swap", () => setTimeout(() => this.keep(), 50));
    },
    load() {
      try { this.rows = JSON.parse(localStorage.getItem("gumboot-sums")) || []; } catch { this.rows = []; }
    },
    keep() {
      const big = document.querySelector("#found .big");
      if (!big) return;
      this.load(); // another tab may have asked meanwhile
      const row = { title: document.getElementById("asked").textContent, answer: big.firstChild.textContent.trim(), href: location.pathname + location.search };
      // While one question is being typed its last form is the one that is kept.
      const others = this.rows.filter((old, n) => old.href !== row.href && !(n === 0 && this.typing === old.href));
      this.typing = row.href;
      this.rows = [row, ...others].slice(0, 20);
      try { localStorage.setItem("gumboot-sums", JSON.stringify(this.rows)); } catch { /* a full store keeps no history */ }
    },
  }));
  // By which clock a table that is sent was written, when it does not say so itself.
  Alpine.data("clock", () => ({ zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "" }));
  Alpine.data("trail", () => ({ open: false, toggle() { this.open = !this.open; } }));
  Alpine.data("torque", () => ({
    hint: "",
    tone: "",
    check() {
      const form = document.getElementById("torque-form");
      const low = Number(this.$root.dataset.low), high = Number(this.$root.dataset.high);
      const typed = form.elements.reached.value.replace(",", ".");
      const value = Number(typed) * NM[form.elements.unit.value];
      if (typed === "" || !Number.isFinite(value)) { this.hint = ""; this.tone = ""; return; }
      const inside = value >= low - 1e-6 && value <= high + 1e-6;
      const mistaken = Object.keys(NM).find((unit) => unit !== form.elements.unit.value && Number(typed) * NM[unit] >= low && Number(typed) * NM[unit] <= high);
      this.hint = inside ? "in band" : (value < low ? "too low" : "too high") + (mistaken ? "; did you read " + mistaken + "?" : "");
      this.tone = inside ? "ok" : "bad";
    },
  }));
});
