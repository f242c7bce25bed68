// A picture looked at where the act is: at a size at which its words can be read, with a small key of the whole; moved by a finger, made
// larger by two, whole and back by a double tap.

const NEAR = 358;
const WHOLE = 78;
const MOST = 4;
const DOUBLE_MS = 320;
// The most that a picture takes of its width in height; the ends of a box leave room for the value.
const MOST_HIGH = 0.62;
// Of one that is worked through place by place all is seen.
const ALL_HIGH = 1;
const ENDS = 0.34;

const within = (value, low, high) => Math.min(Math.max(value, low), Math.max(low, high));

// The part of a picture that is seen: [x, y, width, height], about a place, as wide as `width`, as high as the frame's shape asks.
export function partOf(whole, at, width, shape) {
  const w = Math.min(width, Math.max(whole[0], whole[1] / shape));
  const h = w * shape;
  return [w >= whole[0] ? (whole[0] - w) / 2 : within(at[0] - w / 2, 0, whole[0] - w), h >= whole[1] ? (whole[1] - h) / 2 : within(at[1] - h / 2, 0, whole[1] - h), w, h];
}

const middle = ([x, y, w, h]) => [x + w / 2, y + h / 2];

export class Look {
  constructor(frame) {
    this.near = document.createElement("div");
    this.near.className = "hand-near";
    this.whole = document.createElement("div");
    this.whole.className = "hand-whole";
    frame.append(this.near, this.whole);
    Object.assign(this, { frame, picture: null, part: null, points: new Map(), tapped: 0 });
    const glass = this.near;
    glass.addEventListener("pointerdown", (event) => this.down(event));
    glass.addEventListener("pointermove", (event) => this.move(event));
    for (const name of ["pointerup", "pointercancel", "pointerleave"]) glass.addEventListener(name, (event) => this.up(event));
  }

  // One unit of a drawing is one point of the glass: its words are then as large as they were written.
  nearWidth() {
    return this.whole.hidden ? NEAR : NEAR - WHOLE;
  }

  // How high the frame stands for its width: flat pictures are not given more room than they fill.
  shapeOf() {
    const { width, height } = this.picture;
    const near = Math.min(width, this.nearWidth());
    return within(height / near, 0.24, this.picture.hasOwnRing ? ENDS : this.picture.isAll ? ALL_HIGH : MOST_HIGH);
  }

  // Shows a picture at a place; the mark of what is in hand is a class on its groups.
  show(picture, names) {
    const isOther = this.picture?.svg !== picture.svg;
    this.picture = picture;
    if (isOther) {
      const made = new DOMParser().parseFromString(picture.svg, "image/svg+xml").documentElement;
      this.near.replaceChildren(document.importNode(made, true));
      this.svg = this.near.querySelector("svg");
      this.makeKey();
    }
    const found = names.map((name) => picture.at[name]).find(Boolean);
    this.at = found || [picture.width / 2, picture.height / 2];
    this.isFound = Boolean(found);
    this.home();
    this.ring(found);
  }

  makeKey() {
    const { width, height } = this.picture;
    this.key = null;
    // One that is as wide as the glass is only moved up and down: a finger finds the rest of it.
    this.whole.hidden = width <= NEAR * 1.3;
    this.whole.replaceChildren();
    if (this.whole.hidden) return;
    const made = this.svg.cloneNode(true);
    made.removeAttribute("aria-label");
    made.setAttribute("aria-hidden", "true");
    for (const text of made.querySelectorAll("text, defs")) text.remove();
    this.key = document.createElementNS("http://www.w3.org/2000/svg", "rect");
    this.key.setAttribute("class", "hand-window");
    made.append(this.key);
    made.setAttribute("viewBox", "0 0 " + width + " " + height);
    this.whole.append(made);
  }

  // A ring where the act is, unless the picture has one of its own.
  ring(at) {
    this.svg.querySelector(".hand-here")?.remove();
    if (!at || this.picture.hasOwnRing || this.picture.isWhole) return;
    const ring = document.createElementNS("http://www.w3.org/2000/svg", "circle");
    const [x, y] = at;
    for (const [name, value] of Object.entries({ cx: x, cy: y, r: 24, class: "hand-here" })) ring.setAttribute(name, value);
    this.svg.append(ring);
  }

  // Marks on a drawing that is worked through place by place: where it is now, what was right and what was not.
  mark(places) {
    for (const old of this.svg.querySelectorAll(".hand-mark")) old.remove();
    for (const { at, tone } of places) {
      const place = this.picture.at[at];
      if (!place) continue;
      const round = document.createElementNS("http://www.w3.org/2000/svg", "circle");
      for (const [name, value] of Object.entries({ cx: place[0], cy: place[1], r: 17, class: "hand-mark " + tone })) round.setAttribute(name, value);
      this.svg.append(round);
    }
  }

  home() {
    const { width, height } = this.picture;
    const shape = this.shapeOf();
    this.near.style.aspectRatio = "1 / " + shape.toFixed(3);
    this.see(partOf([width, height], this.at, this.isFound ? this.nearWidth() : width, shape));
  }

  see(part) {
    this.part = part;
    this.svg.setAttribute("viewBox", part.map((value) => value.toFixed(1)).join(" "));
    if (!this.key) return;
    const [x, y, width, height] = part;
    for (const [name, value] of Object.entries({ x, y, width, height })) this.key.setAttribute(name, value.toFixed(1));
  }

  zoom(by, about = middle(this.part)) {
    const { width, height } = this.picture;
    const shape = this.part[3] / this.part[2];
    const most = Math.max(width, height / shape);
    this.see(partOf([width, height], about, within(this.part[2] / by, NEAR / MOST, most), shape));
  }

  down(event) {
    this.points.set(event.pointerId, [event.clientX, event.clientY]);
    const double = event.timeStamp - this.tapped < DOUBLE_MS && this.points.size === 1;
    this.tapped = double ? 0 : event.timeStamp;
    if (double) this.flip();
  }

  // From near to whole, and back.
  flip() {
    const { width, height } = this.picture;
    const shape = this.part[3] / this.part[2];
    const whole = Math.max(width, height / shape);
    if (this.part[2] < whole - 1) this.see(partOf([width, height], [width / 2, height / 2], whole, shape));
    else this.home();
  }

  move(event) {
    const before = this.points.get(event.pointerId);
    if (!before) return;
    const apart = this.apart();
    this.points.set(event.pointerId, [event.clientX, event.clientY]);
    if (this.points.size > 1) {
      if (apart > 0) this.zoom(this.apart() / apart);
      return;
    }
    const scale = this.part[2] / this.near.clientWidth;
    const [x, y] = middle(this.part);
    const { width, height } = this.picture;
    const to = [x - (event.clientX - before[0]) * scale, y - (event.clientY - before[1]) * scale];
    this.see(partOf([width, height], to, this.part[2], this.part[3] / this.part[2]));
  }

  apart() {
    const [a, b] = [...this.points.values()];
    return a && b ? Math.hypot(a[0] - b[0], a[1] - b[1]) : 0;
  }

  up(event) {
    this.points.delete(event.pointerId);
  }
}
