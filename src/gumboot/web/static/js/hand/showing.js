// What is shown of an act beside its card: how each end of its box stands, and the pictures that were taken of it.

import { pictureAt } from "../addresses.js";

export const showing = (my) => ({
  hasPhotos: false,

  // On the map of a box every end shows how it stands.
  marks() {
    if (!this.hasLook) return;
    for (const group of this.$refs.look.querySelectorAll("[data-act]")) {
      const { act } = group.dataset;
      const id = this.current.startsWith("recheck:") ? act.replace("torque:", "recheck:") : act;
      const state = my.house.act(id) ? my.house.state(id) : "open";
      group.classList.toggle("done", ["good", "cleared", "used"].includes(state));
      group.classList.toggle("bad", state === "failed" || state === "lapsed");
      group.classList.toggle("here", id === this.current);
    }
  },

  async pictures() {
    const told = (my.house.carried.photos || {})[this.current] || [];
    const waiting = my.items.filter((item) => item.kind === "photo" && item.act === this.current && item.state !== "sent");
    this.hasPhotos = told.length + waiting.length > 0;
    const place = this.$refs.photos;
    if (!place) return;
    const shown = [...told.map((each) => each.hash), ...waiting.map((item) => item.id)].join(" ");
    if (place.dataset.shown === shown) return;
    place.dataset.shown = shown;
    place.replaceChildren();
    const here = this.current;
    for (const each of told.slice(-4)) {
      const blob = await my.phone.bags.photo(this.job, each.hash);
      if (this.current === here) place.append(pictureOf(blob ? URL.createObjectURL(blob) : pictureAt(this.job, each.hash), each.by));
    }
    for (const item of waiting) {
      const blob = await my.phone.items.blobOf(item.id);
      if (blob && this.current === here) place.append(pictureOf(URL.createObjectURL(blob), "you, waiting"));
    }
  },
});

function pictureOf(address, by) {
  const image = document.createElement("img");
  image.src = address;
  image.alt = "Picture by " + by;
  image.addEventListener("load", () => URL.revokeObjectURL(address), { once: true });
  return image;
}
