// The screens of a meter test: what is switched on, and how long its display lags behind.

// How long a display may lag behind what it shows, s: common practice.
const LAG_S = 10;

export const screens = (my) => ({
  padGroup: "",
  padWait: "",

  // Each switching has a screen of its own; what its display shows lags behind for a while.
  padScreen(group) {
    if (group === this.padGroup) return;
    this.padGroup = group;
    clearInterval(my.padClock);
    this.padWait = "";
    if (!this.padRows.some((row) => row.stands && row.group === group)) return;
    let left = LAG_S;
    const count = () => {
      this.padWait = left > 0 ? "Displays lag: read in " + left + " s" : "Read now";
      left -= 1;
      if (left < 0) clearInterval(my.padClock);
    };
    count();
    my.padClock = setInterval(count, 1000);
  },
});
