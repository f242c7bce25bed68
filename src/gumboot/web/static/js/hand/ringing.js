// A lead rung out core by core: which pin is probed, where it must beep, where it did; nothing is recorded before all of them are rung.

const WORDS = { none: "no beep", screen: "screen", several: "several" };
const TOLD = { none: "does not beep", screen: "beeped at the screen", several: "beeped at several" };

// Where each core stands on the drawing of its lead, and whether it was right.
export function marksOf(cores, rung) {
  const found = [];
  for (const core of cores) {
    const heard = rung[core.name];
    if (heard === undefined) continue;
    const tone = heard === core.wanted ? "right" : "wrong";
    found.push({ at: "first-" + core.pin, tone });
    if (!(heard in WORDS)) found.push({ at: "second-" + heard, tone });
  }
  return found;
}

// What the cores rung so far say: which are not where they belong.
export const wrongOf = (cores, rung) => cores.filter((core) => rung[core.name] !== undefined && rung[core.name] !== core.wanted);

function faultWords(core, heard) {
  const where = TOLD[heard] || "beeped at " + heard;
  return core.words + ": " + core.pin + " " + where + ", it belongs at " + core.wanted;
}

export const ringing = (my) => ({
  ringCount: "",
  ringSay: "",
  ringFault: "",
  ringWanted: "",
  ringKeys: [],
  ringDone: false,
  ringBegun: false,
  ringHold: "",
  ringTone: "",

  openRing() {
    my.rung = {};
    this.ringFresh();
  },

  ringFresh() {
    const { cores, near, far, places } = this.answers.ring;
    const core = cores.find((each) => my.rung[each.name] === undefined);
    const wrong = wrongOf(cores, my.rung);
    const done = cores.filter((each) => my.rung[each.name] !== undefined).length;
    this.ringBegun = done > 0;
    this.ringDone = !core;
    this.ringCount = done + " of " + cores.length + " cores rung.";
    this.ringSay = core ? core.words + ": probe on " + core.pin + " at " + near + ", along the plug at " + far + "." : "";
    this.ringWanted = core ? core.wanted : "";
    this.ringKeys = core ? places.filter((place) => place !== core.wanted && place !== "none").map((place) => ({ place, words: WORDS[place] || place })) : [];
    this.ringFault = wrong.length ? wrong.map((each) => faultWords(each, my.rung[each.name])).join("; ") + "." : "";
    this.ringHold = wrong.length ? "Record it: " + wrong.length + " not as asked" : "All " + cores.length + " right";
    if (this.hasLook) my.look.mark([...marksOf(cores, my.rung), ...(core ? [{ at: "first-" + core.pin, tone: "next" }] : [])]);
  },

  ringHeard(place) {
    const core = this.answers.ring.cores.find((each) => my.rung[each.name] === undefined);
    if (!core) return;
    my.rung = { ...my.rung, [core.name]: place };
    this.ringFresh();
  },

  // The core before once more: a probe slips.
  ringBack() {
    const rung = this.answers.ring.cores.filter((each) => my.rung[each.name] !== undefined);
    const last = rung.at(-1);
    if (!last) return;
    my.rung = Object.fromEntries(Object.entries(my.rung).filter(([name]) => name !== last.name));
    this.ringFresh();
  },

  ringFields() {
    return { ...my.rung };
  },
});
