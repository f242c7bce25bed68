"use strict";
// Small behaviours only: open a working, keep focus over a redraw, keys, and torque records kept while there is no signal.

const NM = { "N m": 1, "lbf in": 0.1129848290276167, "lbf ft": 1.3558179483314004 };
const bench = () => document.getElementById("bench");

function openWorking(key) {
  const job = bench() && bench().dataset.job;
  if (!job) return;
  document.querySelectorAll("[data-selected-figure]").forEach((field) => { field.value = key; });
  const address = "/jobs/" + encodeURIComponent(job) + "/working?figure=" + encodeURIComponent(key) + "&station=" + bench().dataset.station;
  htmx.ajax("GET", address, { target: "#working", swap: "innerHTML" });
}

document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-figure]");
  if (opener) { openWorking(opener.dataset.figure); return; }
  const cure = event.target.closest("[data-cure]");
  if (cure) {
    const field = document.getElementById("f-" + cure.dataset.cure.replaceAll(".", "-"));
    event.preventDefault();
    if (field) { field.focus(); field.scrollIntoView({ block: "center" }); }
    else { window.location.href = cureStation(cure.dataset.cure); }
  }
  if (event.target.closest("#keys-button")) document.getElementById("keys").showModal();
});

// A field that lives at another station: go there.
function cureStation(path) {
  const first = path.split(".")[0];
  const station = { site: "survey", backup: "survey", wall: "wall", loads: "loads", strings: "strings", faces: "strings", bank: "bank", runs: "circuits", links: "links", sensing: "sensing", settings: "settings" }[first] || "survey";
  return "/jobs/" + encodeURIComponent(bench().dataset.job) + "/" + (path.startsWith("bank.units") ? "links" : station) + "#f-" + path.replaceAll(".", "-");
}

// A redraw must not throw the keyboard back to the top: focus returns to the same element, or to the same place in order.
const reachable = () => [...document.querySelectorAll("#bench a, #bench button, #bench input:not([type=hidden]), #bench select, #bench [tabindex='0']")];
let focused = "", place = -1;
document.addEventListener("htmx:before:swap", () => {
  focused = document.activeElement ? document.activeElement.id : "";
  place = reachable().indexOf(document.activeElement);
});
document.addEventListener("htmx:after:swap", () => {
  const again = (focused && document.getElementById(focused)) || (place >= 0 && document.activeElement === document.body && reachable()[place]);
  if (again && document.activeElement !== again) again.focus({ preventScroll: true });
});

let leading = "";
document.addEventListener("keydown", (event) => {
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

// Torque records that could not be sent stay here and go out when the network is back. The record's own
// id makes a second send harmless.
const QUEUE = "gumboot-kept";
const kept = () => { try { return JSON.parse(localStorage.getItem(QUEUE) || "[]"); } catch (broken) { return []; } };
const keep = (list) => localStorage.setItem(QUEUE, JSON.stringify(list));

function freshId() { return crypto.randomUUID ? crypto.randomUUID() : "k" + Date.now() + "-" + Math.random().toString(16).slice(2); }

async function post(item, csrf) {
  const body = new URLSearchParams(item.fields);
  body.set("csrf", csrf);
  return fetch(item.action, { method: "POST", body, headers: { Accept: "application/json" }, redirect: "manual", credentials: "same-origin" });
}

function showNetwork(words) {
  const place = document.getElementById("network");
  if (!place) return;
  const count = kept().length;
  place.textContent = words || (navigator.onLine === false ? "no signal · " + count + " kept here" : count ? count + " kept here, not sent yet" : "");
}

async function sendKept() {
  const form = document.getElementById("torque-form");
  if (!form || !kept().length) { showNetwork(); return; }
  for (const item of kept()) {
    let answer;
    try { answer = await post(item, form.elements.csrf.value); } catch (offline) { showNetwork(); return; }
    if (answer.status !== 200) { showNetwork("a kept record was refused (" + answer.status + "): sign in and open it again"); return; }
    keep(kept().filter((other) => other.fields.record_id !== item.fields.record_id));
  }
  showNetwork("sent what was kept here");
}

document.addEventListener("alpine:init", () => {
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
    async send(event) {
      const form = event.target;
      event.preventDefault();
      form.elements.record_id.value = freshId();
      const fields = Object.fromEntries(new FormData(form));
      delete fields.csrf;
      let answer;
      try { answer = await post({ action: form.getAttribute("action"), fields }, form.elements.csrf.value); } catch (offline) { this.keepHere(form, fields); return; }
      if (answer.status === 200) { window.location.assign((await answer.json()).next); return; }
      // Refused: send it as a plain form, whose answer says why and keeps what was typed.
      form.submit();
    },
    keepHere(form, fields) {
      keep([...kept(), { action: form.getAttribute("action"), fields }]);
      showNetwork();
      this.hint = "kept on this phone";
      this.tone = "ok";
    },
  }));
});
window.addEventListener("online", sendKept);
window.addEventListener("offline", () => showNetwork());
document.addEventListener("DOMContentLoaded", sendKept);
