// A load's tag is dragged across with a pointer, or moved with Enter, Space or an arrow.

import { sideOf } from "../keys.js";

const NEAR = 20;

// The column under a pointer, side by side on a bench and one above the other on a phone.
function columnAt(x, y) {
  return [...document.querySelectorAll(".column")].find((place) => {
    const box = place.getBoundingClientRect();
    return x >= box.left && x <= box.right && y >= box.top - NEAR && y <= box.bottom + NEAR;
  });
}

export const tags = () => ({
  held: null,

  move(tag, side) {
    const field = document.querySelector("#f-loads-" + tag.dataset.load + "-side");
    if (!field || tag.dataset.side === side) return;
    field.value = side;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  },

  take(event) {
    const tag = event.target.closest("g.tag");
    if (!tag || event.button > 0) return;
    const { viewBox } = tag.ownerSVGElement;
    this.held = { tag, x: event.clientX, y: event.clientY, scale: viewBox.baseVal.width / tag.ownerSVGElement.getBoundingClientRect().width };
    event.preventDefault();
    tag.focus({ preventScroll: true });
  },

  drag(event) {
    if (!this.held) return;
    const { tag, x, y, scale } = this.held;
    tag.setAttribute("transform", "translate(" + (event.clientX - x) * scale + " " + (event.clientY - y) * scale + ")");
    tag.classList.add("lifted");
  },

  drop(event) {
    if (!this.held) return;
    const { tag } = this.held;
    this.held = null;
    tag.removeAttribute("transform");
    tag.classList.remove("lifted");
    const column = event.type === "pointercancel" ? null : columnAt(event.clientX, event.clientY);
    if (column) this.move(tag, column.dataset.side);
  },

  key(event) {
    const tag = event.target.closest("g.tag");
    const side = tag && sideOf(event.key, tag.dataset.side);
    if (!side) return;
    event.preventDefault();
    this.move(tag, side);
  },
});
