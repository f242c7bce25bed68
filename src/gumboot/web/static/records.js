"use strict";
// Records of work. Each is written down on this phone before it is sent, under its doer's name and time, and stays until the server
// has acknowledged it. What cannot be sent keeps its reason and holds up nothing behind it. The record's own id makes a second send harmless.
(() => {
  const QUEUE = "gumboot-kept", WAIT_MS = 8000, AGAIN_MS = 20000;
  const me = () => document.body.dataset.who || "";
  const csrf = () => document.body.dataset.csrf || "";
  // A name of this device, made once: which phone a record was made on, and nothing of whose it is.
  function device() {
    let name = "";
    try { name = localStorage.getItem("gumboot-device") || ""; if (!name) { name = (innerWidth < 600 ? "phone " : "screen ") + freshId().slice(0, 6); localStorage.setItem("gumboot-device", name); } } catch (none) { /* kept nowhere */ }
    return name;
  }
  const freshId = () => (crypto.randomUUID ? crypto.randomUUID() : "k" + Date.now().toString(16) + "-" + Math.random().toString(16).slice(2, 14));

  function kept() {
    let list = [];
    try { list = JSON.parse(localStorage.getItem(QUEUE) || "[]"); } catch (broken) { return []; }
    // Kept by an earlier version of this page: it has neither a doer nor a time.
    return list.map((item) => (item.id ? item : {
      id: item.fields.record_id, action: item.action, fields: item.fields, who: "", at: 0, title: "A torque record", state: "refused",
      reason: "Kept by an earlier version, without a name or a time. If you did it, send it again.",
    }));
  }
  function write(list) { try { localStorage.setItem(QUEUE, JSON.stringify(list)); return true; } catch (full) { return false; } }
  const put = (item) => write([...kept().filter((other) => other.id !== item.id), item]);
  const drop = (id) => write(kept().filter((other) => other.id !== id));
  function mark(id, state, reason) { write(kept().map((item) => (item.id === id ? { ...item, state, reason } : item))); show(); }

  // One answer of the server, or why there was none.
  async function send(item, headers) {
    const body = new URLSearchParams(item.fields);
    body.set("csrf", csrf());
    body.set("record_id", item.id);
    body.set("doer", item.who);
    body.set("device", device());
    body.set("age_s", String(Math.max(0, Math.round((Date.now() - (item.at || Date.now())) / 1000))));
    const stop = new AbortController();
    const clock = setTimeout(() => stop.abort(), WAIT_MS);
    try {
      const answer = await fetch(item.action, { method: "POST", body, headers: { ...headers, "X-Record": "1" }, redirect: "manual", credentials: "same-origin", signal: stop.signal });
      const text = await answer.text();
      return { status: answer.type === "opaqueredirect" ? 401 : answer.status, ours: answer.headers.has("X-Request-ID"), kind: answer.headers.get("content-type") || "", text };
    } catch (failed) {
      return { status: 0, reason: failed.name === "AbortError" ? "no answer within 8 s" : "no signal" };
    } finally { clearTimeout(clock); }
  }

  function said(answer) {
    if (answer.reason) return answer.reason;
    if (answer.status === 401) return "your session is over: sign in again";
    try { return JSON.parse(answer.text).detail; } catch (plain) { /* not ours, or a page */ }
    return "the server answered " + answer.status;
  }
  // What becomes of an item: acknowledged, waiting for better times, or in need of somebody.
  function settle(item, answer) {
    if (answer.status === 200 && answer.ours) { drop(item.id); show(); return true; }
    const needs = [400, 403, 404, 409, 413, 422].includes(answer.status);
    mark(item.id, needs ? "refused" : answer.status === 401 ? "sign-in" : "waiting", said(answer));
    return false;
  }

  let sending = false;
  async function sendKept() {
    if (sending || !me()) { show(); return; }
    sending = true;
    try {
      for (const item of kept()) {
        if (item.state === "refused" || item.who !== me() || busy.has(item.id)) continue;
        settle(item, await send(item, { Accept: "application/json" }));
      }
    } finally { sending = false; show(); }
  }
  const sendOnce = () => (navigator.locks ? navigator.locks.request("gumboot-kept", { ifAvailable: true }, (lock) => (lock ? sendKept() : null)) : sendKept());

  const busy = new Set();
  const ids = new WeakMap();
  // The same answers on the same form are the same record, however often they are tapped.
  function idOf(form, fields) {
    const known = ids.get(form) || new Map();
    ids.set(form, known);
    const key = JSON.stringify(fields);
    if (!known.has(key)) known.set(key, known.size ? freshId() : form.elements.record_id.value || freshId());
    return known.get(key);
  }
  function tell(form, words, tone) {
    let place = form.querySelector(".told");
    if (!place) { place = document.createElement("p"); place.setAttribute("role", "status"); form.append(place); }
    place.className = "told " + tone;
    place.textContent = words;
  }
  function redraw(html) {
    const old = document.getElementById("bench");
    if (!old) return;
    const made = new DOMParser().parseFromString(html, "text/html").getElementById("bench");
    if (!made) return;
    const focused = document.activeElement ? document.activeElement.id : "";
    old.replaceWith(made);
    if (window.htmx) window.htmx.process(made);
    const again = focused && document.getElementById(focused);
    if (again) again.focus({ preventScroll: true });
  }

  async function record(form, button) {
    const fields = Object.fromEntries(new FormData(form, button));
    for (const carried of ["csrf", "record_id", "doer", "age_s"]) delete fields[carried];
    const item = { id: idOf(form, fields), action: form.getAttribute("action"), fields, who: me(), at: Date.now(), title: form.dataset.record || "A record", state: "waiting", reason: "not sent yet" };
    if (busy.has(item.id)) return;
    const before = kept().find((other) => other.id === item.id);
    if (before) item.at = before.at;
    busy.add(item.id);
    form.setAttribute("aria-busy", "true");
    const safe = put(item);
    tell(form, "sending", "pencil");
    const next = form.dataset.next !== undefined;
    const answer = await send(item, next ? { Accept: "application/json" } : { "HX-Request": "true", Accept: "text/html" });
    busy.delete(item.id);
    answered(form, item, answer, safe, next);
    form.removeAttribute("aria-busy");
  }

  // What an answer means where somebody waits for it.
  function answered(form, item, answer, safe, next) {
    if (answer.status === 200 && answer.ours) {
      drop(item.id);
      show();
      if (next) window.location.assign(JSON.parse(answer.text).next); else redraw(answer.text);
      return;
    }
    if (answer.status === 422 && answer.ours) {
      // Somebody is here to mend it, and what was typed stands in its field.
      drop(item.id);
      show();
      if (next) tell(form, said(answer), "problem"); else redraw(answer.text);
      return;
    }
    if (!next && answer.ours && answer.kind.startsWith("text/html")) answer.reason = new DOMParser().parseFromString(answer.text, "text/html").body.innerText.trim().slice(0, 200);
    settle(item, answer);
    tell(form, safe ? "kept on this phone, not sent: " + said(answer) : "not sent and not kept, this phone's store is full: " + said(answer), safe ? "ok" : "problem");
  }

  document.addEventListener("submit", (event) => {
    const form = event.target.closest("form[data-record]");
    if (!form) return;
    event.preventDefault();
    record(form, event.submitter);
  });

  function line(item) {
    const row = document.createElement("li"), what = document.createElement("b"), when = document.createElement("span");
    what.textContent = item.title;
    const time = item.at ? new Date(item.at).toLocaleString([], { day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit" }) : "time unknown";
    const other = item.who && item.who !== me() ? ": waits until " + item.who + " signs in here" : item.reason ? ": " + item.reason : "";
    when.textContent = " " + (item.who || "nobody named") + ", " + time + other;
    row.append(what, when);
    if (item.state === "refused" && (!item.who || item.who === me())) {
      const again = document.createElement("button"), away = document.createElement("button");
      again.type = away.type = "button";
      again.className = away.className = "act small quiet";
      again.textContent = "Send again";
      away.textContent = "Discard";
      again.addEventListener("click", () => { write(kept().map((x) => (x.id === item.id ? { ...x, who: x.who || me(), at: x.at || Date.now(), state: "waiting" } : x))); sendOnce(); });
      away.addEventListener("click", () => { if (away.dataset.sure) { drop(item.id); show(); } else { away.dataset.sure = "1"; away.textContent = "Discard for good?"; } });
      row.append(" ", again, " ", away);
    }
    return row;
  }
  function show() {
    const place = document.getElementById("outbox");
    if (!place) return;
    const list = kept(), offline = navigator.onLine === false;
    place.hidden = !list.length && !offline;
    if (place.hidden) { place.replaceChildren(); return; }
    const needs = list.filter((item) => item.state === "refused").length;
    const words = (offline ? "No signal" : "") + (offline && list.length ? " · " : "") + (list.length ? list.length + " kept here, not sent yet" : "") + (needs ? " · " + needs + (needs === 1 ? " needs you" : " need you") : "");
    if (!list.length) { place.textContent = words; return; }
    const opened = place.querySelector("details") ? place.querySelector("details").open : needs > 0;
    const box = document.createElement("details"), head = document.createElement("summary"), rows = document.createElement("ul");
    head.textContent = words;
    rows.append(...list.map(line));
    box.append(head, rows);
    box.open = opened;
    place.replaceChildren(box);
  }

  // A plan's field that could not be sent says so where it was typed; what another server answers is never drawn into the page.
  document.addEventListener("DOMContentLoaded", () => {
    if (window.htmx) {
      window.htmx.config.noSwap.push("413", "50x");
      window.htmx.config.defaultTimeout = WAIT_MS;
      // What is drawn answers at once: with a delay there is a moment in which a new button is seen and does nothing.
      window.htmx.config.defaultSettleDelay = 0;
    }
    sendOnce();
  });
  function unsent(event) {
    const form = event.target.closest ? event.target.closest("form") : null;
    const status = event.detail && event.detail.ctx && event.detail.ctx.response ? event.detail.ctx.response.status : 0;
    if (!form || form.dataset.record !== undefined || (status && status < 500 && status !== 413)) return;
    tell(form, "Not saved: " + (status ? "the server answered " + status : "no signal or no answer") + ". What you typed stands here; send it again.", "problem");
  }
  document.addEventListener("htmx:error", unsent);
  document.addEventListener("htmx:response:error", unsent);
  window.addEventListener("online", sendOnce);
  window.addEventListener("offline", show);
  window.addEventListener("storage", show);
  setInterval(() => { if (kept().some((item) => item.state !== "refused" && item.who === me())) sendOnce(); }, AGAIN_MS);
})();
