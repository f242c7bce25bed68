// What the pages do by themselves. Each part is a component of Alpine; what can be worked out without a page is in modules of its own.

import { asked } from "./asked.js";
import { live } from "./live.js";
import { outbox } from "./outbox.js";
import { shell } from "./shell.js";
import { zoomer } from "./zoomer.js";
import { clock } from "./stations/hand_over.js";
import { tags } from "./stations/loads.js";
import { nudge } from "./stations/wall.js";
import { torque } from "./stations/wire.js";

const COMPONENTS = { asked, clock, live, nudge, outbox, shell, tags, torque, zoomer };

document.addEventListener("alpine:init", () => {
  for (const [name, made] of Object.entries(COMPONENTS)) window.Alpine.data(name, made);
  window.Alpine.data("trail", () => ({
    open: false,
    toggle() {
      this.open = !this.open;
    },
  }));
});
