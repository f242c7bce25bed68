// A box is moved by arrows in the field of its place.

import { nudged } from "../keys.js";

export const nudge = () => ({
  move(event) {
    if (!event.target.matches("[data-nudge] input")) return;
    const value = nudged(event.target.value, event.key, event.shiftKey);
    if (value === null) return;
    event.preventDefault();
    event.target.value = value;
    event.target.dispatchEvent(new Event("change", { bubbles: true }));
  },
});
