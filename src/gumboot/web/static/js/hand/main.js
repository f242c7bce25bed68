// The hand's page.

import { hand } from "./hand.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("hand", hand);
});
