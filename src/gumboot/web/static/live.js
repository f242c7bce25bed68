"use strict";
// What others record appears on the page by itself, unless somebody is typing there: then a line says so and waits.
(() => {
  const AFTER_MS = 2000, TOGETHER_MS = 400;
  const bench = () => document.getElementById("bench");
  let stream = null, soon = 0;

  const typing = () => {
    const at = document.activeElement;
    return Boolean(at && at.closest("#bench") && at.matches("input:not([type=hidden]):not([type=radio]):not([type=checkbox]), textarea") && at.value !== at.defaultValue);
  };
  const unsaved = () => typing() || [...document.querySelectorAll("#bench form[data-record] input:not([type=hidden]):not([type=radio])")].some((one) => one.value !== one.defaultValue);
  function redraw() {
    const old = document.querySelector(".heard");
    if (old) old.remove();
    htmx.ajax("GET", location.pathname + location.search, { target: "#bench", swap: "outerHTML" });
  }
  function tell(note) {
    let line = document.querySelector(".heard");
    if (!line) {
      line = document.createElement("p");
      line.className = "heard";
      line.setAttribute("role", "status");
      const show = document.createElement("button");
      show.type = "button";
      show.className = "act small quiet";
      show.textContent = "Show it";
      show.addEventListener("click", redraw);
      line.append(document.createElement("span"), show);
      document.getElementById("page").prepend(line);
    }
    line.firstChild.textContent = note.by + " recorded something here. ";
  }
  function heard(event) {
    const note = JSON.parse(event.data);
    if (unsaved()) { tell(note); return; }
    clearTimeout(soon);
    soon = setTimeout(() => (unsaved() ? tell(note) : redraw()), TOGETHER_MS);
  }
  // Open only while somebody looks: a browser lets a site have six connections, and a crew may have as many tabs.
  function listen() {
    const here = bench();
    if (stream || !here || document.hidden || !window.EventSource) return;
    stream = new EventSource("/jobs/" + encodeURIComponent(here.dataset.job) + "/events");
    stream.addEventListener("record", heard);
  }
  function rest() { if (stream) { stream.close(); stream = null; } }
  document.addEventListener("visibilitychange", () => (document.hidden ? rest() : listen()));
  window.addEventListener("pagehide", rest);
  window.addEventListener("load", () => setTimeout(listen, AFTER_MS));
})();
