// Press and hold: what records is held down for a moment, so that neither a pocket nor a slip records. A key of the keyboard needs no holding.

export const HOLD_MS = 650;
// A finger that slides further than this has changed its mind.
const SLIP_PX = 24;

export class Hold {
  constructor(root, done, { clock = globalThis } = {}) {
    Object.assign(this, { root, done, clock, timer: 0, button: null, pressed: null, from: null });
    root.addEventListener("pointerdown", (event) => this.down(event));
    for (const name of ["pointerup", "pointercancel", "lostpointercapture"]) root.addEventListener(name, () => this.lifted());
    root.addEventListener("pointermove", (event) => this.moved(event));
    root.addEventListener("contextmenu", (event) => event.target.closest("[data-hold]") && event.preventDefault());
    root.addEventListener("click", (event) => this.clicked(event));
  }

  down(event) {
    const button = event.target.closest("[data-hold]");
    if (!button || button.disabled || event.button) return;
    this.stop();
    this.button = button;
    this.from = [event.clientX, event.clientY];
    button.classList.add("holding");
    this.timer = this.clock.setTimeout(() => this.full(), HOLD_MS);
  }

  moved(event) {
    if (!this.button) return;
    const [x, y] = this.from;
    if (Math.hypot(event.clientX - x, event.clientY - y) > SLIP_PX) this.stop();
  }

  full() {
    const { button } = this;
    this.stop();
    button.dataset.held = "yes";
    this.pressed = button;
    this.done(button.dataset.hold);
  }

  // The click that follows a finger is part of it; where none follows, because the answer made way for another, the next one is a new one.
  lifted() {
    const { pressed } = this;
    this.stop();
    if (pressed) this.clock.setTimeout(() => delete pressed.dataset.held, 0);
    this.pressed = null;
  }

  stop() {
    this.clock.clearTimeout(this.timer);
    if (this.button) this.button.classList.remove("holding");
    this.button = null;
  }

  // A click without a pointer is a key, or a reader of the screen.
  clicked(event) {
    const button = event.target.closest("[data-hold]");
    if (!button || button.disabled) return;
    if (event.detail === 0 && !button.dataset.held) this.done(button.dataset.hold);
    delete button.dataset.held;
  }
}
