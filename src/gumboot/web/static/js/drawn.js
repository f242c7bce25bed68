// The station as it is drawn anew, by who records here and by what others record.

import { isOurs } from "./ours.js";

// Records that were sent from this page: they are drawn by their own answer, and are no news.
export const sentHere = new Set();

// Said when the station was drawn anew by what others recorded.
export const NEWS = "gumboot:news";

// The station as an answer draws it, the keyboard where it was; a page that shows no station is asked for again.
export function redraw(html) {
  const old = document.getElementById("bench");
  const made = new DOMParser().parseFromString(html, "text/html").getElementById("bench");
  if (!old) location.reload();
  if (!old || !made) return;
  const focused = document.activeElement ? document.activeElement.id : "";
  old.replaceWith(made);
  if (window.htmx) window.htmx.process(made);
  const again = focused && document.getElementById(focused);
  if (again) again.focus({ preventScroll: true });
}

// The page as the server has it now; nothing where it cannot be had.
export async function drawnNow() {
  try {
    const answer = await fetch(location.pathname + location.search, { headers: { "HX-Request": "true" }, credentials: "same-origin" });
    return answer.ok && isOurs(answer) ? await answer.text() : "";
  } catch {
    return "";
  }
}
