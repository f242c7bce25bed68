// A load ticked line by line; held without a tick, all of it is in.

export const ALL = "All of it is in";

// What is told of the lines that are ticked.
export function packedWords(rows) {
  const count = rows.filter((row) => row.isIn).length;
  if (!count || count === rows.length) return { words: ALL, sub: count ? "all " + count + " lines" : "or tap what is, line by line" };
  return { words: count + " in, " + (rows.length - count) + " not there", sub: "the rest is told as missing" };
}

// What is recorded: every line where none was ticked.
export function packedFields(rows) {
  const some = rows.some((row) => row.isIn);
  return Object.fromEntries(rows.filter((row) => row.isIn || !some).map((row) => [row.name, "yes"]));
}

export const packing = (my) => ({
  tickRows: [],

  // The lines of the load in hand, as they were ticked last: what is not recorded yet stays while somebody looks elsewhere.
  openTicks() {
    const rows = this.answers ? this.answers.ticks || [] : [];
    const mine = my.house && rows.length ? my.ticks[this.current] || my.house.lastFields(this.current) : null;
    this.tickRows = rows.map((row) => ({ ...row, isIn: mine ? mine[row.name] === "yes" : row.isIn }));
    this.ticksFresh();
  },

  tickTap(name) {
    if (this.isHeld || !this.answers.hold) return;
    this.tickRows = this.tickRows.map((row) => (row.name === name ? { ...row, isIn: !row.isIn } : row));
    my.ticks[this.current] = Object.fromEntries(this.tickRows.filter((row) => row.isIn).map((row) => [row.name, "yes"]));
    this.ticksFresh();
  },

  ticksFresh() {
    if (!this.tickRows.length || !this.answers.hold) return;
    const { words, sub } = packedWords(this.tickRows);
    Object.assign(this.answers.hold, { words, sub, fields: packedFields(this.tickRows) });
    this.holdWords = words;
    this.holdSub = sub;
  },
});
