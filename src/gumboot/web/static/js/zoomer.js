// Pan and zoom of a large diagram: by wheel, drag, buttons and keys; the drawing's own view box moves.

import { boxAt, isWhole, moved, zoomed } from "./zoom.js";

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const WHEEL = 1.15;
const KEY = 1.25;
const BUTTON = 1.4;

export const zoomer = () => ({
  box: null,
  home: null,
  drag: null,

  init() {
    const view = this.$root.querySelector(".zoom-view");
    const whole = view.querySelector("svg").viewBox.baseVal;
    this.home = [whole.x, whole.y, whole.width, whole.height];
    this.box = [...this.home];
    view.addEventListener("wheel", (e) => this.wheel(e), { passive: false });
    view.addEventListener("pointerdown", (e) => {
      if (!isWhole(this.home, this.box)) this.drag = [e.clientX, e.clientY, ...this.box];
    });
    view.addEventListener("pointermove", (e) => this.dragged(e));
    for (const name of ["pointerup", "pointerleave", "pointercancel"]) {
      view.addEventListener(name, () => {
        this.drag = null;
      });
    }
    view.addEventListener("keydown", (e) => this.key(e));
  },

  show(box) {
    this.box = box;
    const view = this.$root.querySelector(".zoom-view");
    view.querySelector("svg").setAttribute("viewBox", box.join(" "));
    view.classList.toggle("zoomed", !isWhole(this.home, box));
  },

  wheel(e) {
    if (!e.ctrlKey && !e.shiftKey && isWhole(this.home, this.box)) return;
    e.preventDefault();
    this.show(zoomed(this.home, this.box, e.deltaY < 0 ? WHEEL : 1 / WHEEL));
  },

  dragged(e) {
    if (!this.drag) return;
    const [fromX, fromY, x, y, width] = this.drag;
    const scale = this.box[2] / this.$root.querySelector("svg").getBoundingClientRect().width;
    this.show(boxAt(this.home, x - (e.clientX - fromX) * scale, y - (e.clientY - fromY) * scale, width));
  },

  key(e) {
    if (e.key === "+" || e.key === "=") this.show(zoomed(this.home, this.box, KEY));
    else if (e.key === "-") this.show(zoomed(this.home, this.box, 1 / KEY));
    else if (e.key === "0") this.whole();
    else if (ARROWS[e.key] && !isWhole(this.home, this.box)) this.show(moved(this.home, this.box, ...ARROWS[e.key]));
    else return;
    e.preventDefault();
  },

  closer() {
    this.show(zoomed(this.home, this.box, BUTTON));
  },

  farther() {
    this.show(zoomed(this.home, this.box, 1 / BUTTON));
  },

  whole() {
    this.show([...this.home]);
  },
});
