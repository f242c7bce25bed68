// The acts of a station, the trail of stations, and the houses that were taken along.

import { bagWords } from "../phone/bag.js";
import { forgetMe } from "../phone/person.js";
import { clockOf } from "../times.js";
import { benchAt, handAt } from "../addresses.js";
import { isSheet, stationOf } from "./house.js";

// How a station of the plan stands, in words.
function planned(rows) {
  const count = (mark) => rows.filter((row) => row.state === mark).length;
  const said = [[count("held"), "to mend"], [count("open"), "to answer"]].filter(([many]) => many).map(([many, words]) => many + " " + words);
  return (said.join(", ") || "Nothing to mend") + " · " + rows.length + " in all";
}

// The address of a station's list.
export const ALL = "all:";

export const listing = (my) => ({
  rows: [],
  listWords: "",
  trail: [],
  jobTitle: "",
  benchHref: "",
  moreHref: "",
  moreWords: "",
  nextId: "",
  nextWords: "Next",
  returnWords: "Back",
  houses: [],
  housesWords: "",
  meWords: "",
  outWords: "Sign out",

  // Up from an act to its station, from there to the trail.
  upward() {
    if (this.screen === "sheet") this.goTo(ALL + stationOf(this.current));
    else if (this.screen === "act") this.goTo(ALL + my.house.at.get(this.current).id);
    else if (my.house) this.goTo("trail");
  },

  openStation(id) {
    this.goTo(ALL + id);
  },

  // A station from what is next in it; one in which all is done as its list.
  enterStation(id) {
    this.rebuild();
    const next = my.house.sheets(id).length ? my.house.nextSheet(id) : my.house.next("", id);
    if (isSheet(next)) this.showSheet(next);
    else if (next && my.house.at.get(next).id === id) this.showAct(next);
    else this.showList(id);
  },

  showList(id) {
    this.rebuild();
    // Drawn anew by what others did it stays where it was.
    if ((my.station !== id || this.screen !== "list") && this.$refs.page) this.$refs.page.scrollTop = 0;
    my.station = id;
    this.screen = "list";
    this.rows = my.house.rows(id);
    const station = my.house.stations().find((each) => each.id === id);
    // What the hand does not decide, things that come and go among it, is decided at the bench.
    this.moreHref = my.house.sheets(id).length ? benchAt(this.job, id) : "";
    this.moreWords = "More of " + station.title + ", at the bench";
    this.stationTitle = station.title;
    this.mark = station.mark;
    this.placeWords = station.words;
    this.whereWords = station.title + ": all stations";
    const words = station.total ? station.done + " of " + station.total + " done" : "Taken along by an earlier version: what is planned here comes with the next signal.";
    this.listWords = my.house.sheets(id).length ? planned(this.rows) : words;
    this.following(id);
    this.returnWords = "Stations";
  },

  following(id) {
    const { house } = my;
    if (house.sheets(id).length) {
      this.nextId = house.nextSheet(id) || house.nextSheet(house.nextOfPlan(id));
      this.nextWords = this.nextId ? "Next: " + this.titleOf(this.nextId) : "The plan asks nothing";
      return;
    }
    this.nextId = house.next("", id);
    this.nextWords = this.nextId ? "Next: " + this.titleOf(this.nextId) : "Nothing is next";
  },

  async showTrail() {
    this.rebuild();
    this.screen = "trail";
    this.stationTitle = "Stations";
    this.placeWords = "";
    this.whereWords = "Stations";
    this.mark = "open";
    this.trail = my.house.stations();
    this.following("");
    this.returnWords = this.current ? "Back to " + this.titleOf(this.current) : "Outbox";
    this.meWords = my.phone.me ? "Signed in: " + my.phone.me.display + ", " + my.phone.me.role : "";
    await this.bagged();
  },

  async showHouses() {
    this.screen = "houses";
    const found = await my.phone.bags.all();
    this.houses = found.map((told) => ({ job: told.job, title: told.title, told: bagWords(told, clockOf), href: handAt(told.job) }));
    this.housesWords = found.length ? "" : "No house was taken along on this phone by who is here.";
  },

  titleOf(id) {
    return (isSheet(id) ? my.house.sheet(id) : my.house.act(id))?.title || "the act";
  },

  go(id) {
    this.goTo(id);
  },

  goNext() {
    this.goTo(this.nextId);
  },

  backToAct() {
    if (this.screen === "list") this.goTo("trail");
    else if (this.current) this.goTo(this.current);
    else if (this.screen === "trail") this.goTo("outbox");
    else this.goTo("trail");
  },

  // Who leaves the phone to another says so: what was carried is closed, what waits stays and leaves when they sign in here again.
  async signOut() {
    const waits = my.items.filter((item) => item.isMine && item.state !== "sent").length;
    if (!my.sureOut) {
      my.sureOut = true;
      this.outWords = waits ? waits + " of yours wait: they stay, closed, and leave when you sign in here again. Sign out" : my.phone.isHeard ? "Sure: sign out" : "No signal: nobody can sign in here before there is. Sign out";
      return;
    }
    await forgetMe();
    location.assign("/sign-in");
  },
});
