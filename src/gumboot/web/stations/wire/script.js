// The card of a termination: what is typed is held against the band while it is typed.

import { torqueHint } from "../units.js";

export const torque = () => ({
  hint: "",
  tone: "",

  init() {
    if (document.getElementById("torque-form")?.elements.reached?.value) this.check(); // typed before this was there
  },

  check() {
    const { reached, unit } = document.getElementById("torque-form").elements;
    const { low, high } = this.$root.dataset;
    const { words, tone } = torqueHint(reached.value, unit.value, Number(low), Number(high));
    this.hint = words;
    this.tone = tone;
  },
});
