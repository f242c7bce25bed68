// The hand: one act at a time. Each part of the page is a module; what is large and never drawn lies in `my`, out of the page's sight.

import { Phone, hireWorker } from "../phone/phone.js";
import { Hold } from "./hold.js";
import { House } from "./house.js";
import { Look } from "./look.js";
import { acting } from "./acting.js";
import { showing } from "./showing.js";
import { answering } from "./answering.js";
import { packing } from "./packing.js";
import { screens } from "./screens.js";
import { padding } from "./padding.js";
import { recording } from "./recording.js";
import { takingBack } from "./taking-back.js";
import { refiling } from "./refiling.js";
import { carrying } from "./carrying.js";
import { tooling } from "./tooling.js";
import { ringing } from "./ringing.js";
import { camera } from "./camera.js";
import { glass } from "./glass.js";
import { ALL, listing } from "./listing.js";
import { hearing } from "./hearing.js";
import { outbox } from "./outbox.js";
import { seeing } from "./seeing.js";
import { planning } from "./planning.js";
import { isSheet } from "./house.js";
import { boxing } from "./boxing.js";
import { benchAt } from "../addresses.js";
import { benchNoMore } from "../posture.js";

const AGAIN_MS = 20000;
const SAME_MS = 1000;
const PATH = /^\/jobs\/([^/]+)(?:\/([^/]+))?/;

// A place as an address has it; one that somebody typed wrong leads to what is next.
function placeIn(hash) {
  try {
    return decodeURIComponent(hash);
  } catch {
    return "";
  }
}

// The house and the station that an address names.
export function addressed(path, hash) {
  const [, job = "", station = ""] = (PATH.exec(path) || []).map((part) => decodeURIComponent(part || ""));
  const place = placeIn(hash.replace(/^#/, ""));
  return { job, place: place || (station === "hand" ? "" : station) };
}

export const hand = () => {
  const my = { phone: null, house: null, known: null, items: [], look: null, jobs: "", stream: null, soon: 0, rung: {}, ticks: {}, typed: {} };
  const parts = [booting, hearing, arriving, acting, showing, answering, tooling, packing, padding, screens, ringing, recording, takingBack, boxing, listing, carrying, outbox, refiling, camera, glass, seeing, planning];
  return Object.assign({}, ...parts.map((part) => part(my)));
};

const booting = (my) => ({
  screen: "wait",
  mode: "main",
  trouble: "",
  working: false,
  mark: "open",
  stationTitle: "Gumboot",
  placeWords: "",
  whereWords: "Stations",
  netWords: "",
  netTone: "",
  job: "",
  isAlong: false,

  async init() {
    const { job, place } = addressed(location.pathname, location.hash);
    this.job = job;
    benchNoMore();
    my.phone = new Phone({ heard: (said) => this.sentOne(said) });
    this.begin();
    my.look = new Look(this.$refs.look);
    my.hold = new Hold(document.body, (name) => this.held(name));
    this.listen();
    await my.phone.begin();
    // What is in hand is shown first; what waits beside it is put in order after.
    [my.items, my.known] = await Promise.all([my.phone.items.all(), job ? my.phone.bags.house(job) : null]);
    if (my.known) this.arrive(place);
    this.isAlong = Boolean(job && (await my.phone.bags.kept(job)));
    await my.phone.letGo();
    await my.phone.items.drain(localStorage);
    await this.count();
    this.rest(job, place);
  },

  // What asks the server: the page is there before it answers.
  async rest(job, place) {
    // Who is here and what the house is are asked together: one bar of signal is slow enough.
    const early = job && navigator.onLine ? my.phone.bags.heard(job, my.known).catch((failed) => ({ failed })) : null;
    await this.hear();
    if (job && my.phone.isHeard && !my.phone.isOver) await this.refresh(early);
    if (job && my.known && this.screen === "wait") this.arrive(place);
    if (!my.known) await this.without(job);
    // What is kept for later waits until there is something to be seen.
    my.lacks = await hireWorker({ isKept: true });
    await my.phone.send();
    await this.count();
    this.follow();
  },

  // Nothing of this house is here.
  async without(job) {
    if (my.phone.isOver || (!my.phone.me && my.phone.isHeard)) {
      location.assign("/sign-in");
      return;
    }
    if (!my.phone.me) this.trouble = "No signal, and nobody has signed in on this phone: what lies here is closed. Signing in needs signal once.";
    else if (job && !this.trouble) this.trouble = "No signal, and this house was not taken along on this phone. Where there is signal, open it and tap Take this house along.";
    await this.showHouses();
  },

  listen() {
    addEventListener("resize", () => {
      my.wide = 0;
    });
    addEventListener("online", () => this.heardAgain());
    addEventListener("offline", () => this.count());
    addEventListener("hashchange", () => this.arrive(addressed(location.pathname, location.hash).place));
    document.addEventListener("visibilitychange", () => (document.hidden ? this.leaving() : this.returned()));
    addEventListener("pagehide", () => this.leaving());
    setInterval(() => this.again(), AGAIN_MS);
  },

  // Nothing waits for its five seconds when the page goes away.
  leaving() {
    this.shutGlass();
    my.stream?.close();
    my.stream = null;
    this.settleBack();
    my.phone.letGo().then(() => my.phone.send());
  },

  // The house made new out of what is known and what waits; within a second the same serves again.
  rebuild(now = Date.now()) {
    const { known, items, house } = my;
    if (!known) return house;
    const isSame = house && my.of.known === known && my.of.items === items && now - house.now < SAME_MS && now >= house.now;
    if (!isSame) {
      my.house = new House(known, items, now);
      my.of = { known, items };
    }
    return my.house;
  },

});

const arriving = (my) => ({
  // To a place of the address: an act, a station, the outbox; else to what is next.
  arrive(place) {
    if (!my.known) return;
    this.darken();
    this.rebuild();
    document.title = my.house.bag.job.title + " · Gumboot";
    this.jobTitle = my.house.bag.job.title;
    this.benchHref = benchAt(this.job, "wire");
    if (place === "outbox") this.showOutbox();
    else if (place === "trail") this.showTrail();
    else if (my.house.has(place)) this.showAct(place);
    else if (isSheet(place)) this.showSheet(place);
    else if (place.startsWith(ALL) && my.house.hasStation(place.slice(ALL.length))) this.showList(place.slice(ALL.length));
    else if (place.includes(":")) this.notHere(place);
    else if (my.house.hasStation(place)) this.enterStation(place);
    else if (my.house.next()) this.showAct(my.house.next());
    else this.showTrail();
  },

  // An act that the plan has no more, or that is none of the hand.
  notHere(place) {
    this.current = "";
    this.trouble = "There is no " + place + " in this plan.";
    this.showTrail();
  },

  // The same screen, drawn anew by what is known now; what is being typed stays.
  redraw() {
    if (!my.known) return;
    if (this.screen === "wait" || this.screen === "houses") this.arrive(addressed(location.pathname, location.hash).place);
    else if (this.screen === "act" && !this.rebuild().has(this.current)) this.notHere(this.current);
    else if (this.screen === "act") this.freshAct();
    else if (this.screen === "sheet") this.showSheet(this.current);
    else if (this.screen === "list") this.showList(my.station);
    else if (this.screen === "trail") this.showTrail();
    else if (this.screen === "outbox") this.showOutbox();
  },

  // A place is an address: the phone's own way back works.
  goTo(place) {
    const hash = "#" + encodeURIComponent(place).replaceAll("%3A", ":");
    if (location.hash === hash) this.arrive(place);
    else location.hash = hash;
  },
});
