// The view box of a drawing that is moved and made larger: pure arithmetic on [x, y, width, height].

export const MOST = 6;
export const NUDGE = 12;
const SAME = 1;

const within = (value, low, high) => Math.min(Math.max(value, low), high);

// A box of a width at a place, within the whole and no closer than MOST times.
export function boxAt(home, x, y, width) {
  const w = within(width, home[2] / MOST, home[2]);
  const h = (w * home[3]) / home[2];
  return [within(x, home[0], home[0] + home[2] - w), within(y, home[1], home[1] + home[3] - h), w, h];
}

// The box made larger or smaller about its middle.
export function zoomed(home, [x, y, w, h], by) {
  return boxAt(home, x + (w - w / by) / 2, y + (h - h / by) / 2, w / by);
}

// The box moved by parts of its own width.
export function moved(home, box, right, down) {
  const step = box[2] / NUDGE;
  return boxAt(home, box[0] + right * step, box[1] + down * step, box[2]);
}

export const isWhole = (home, box) => box[2] >= home[2] - SAME;
