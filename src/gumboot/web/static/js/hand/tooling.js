// The tool in hand, kept for the shift; what speaks against it here is said before it is used.

import { against, toolAsked } from "./answers.js";
import { keepTool, keptTool } from "./kept.js";
import { dayOf } from "../times.js";


export const tooling = (my) => ({
  toolWords: "",
  toolSub: "",
  toolTone: "",
  toolShort: "",
  toolTitle: "",
  tools: [],

  keptTool(act) {
    const asked = toolAsked(act);
    return asked ? keptTool({ job: this.job, kind: asked.kinds[0] }, Date.now()) : "";
  },

  toolNow() {
    const act = my.house.act(this.current);
    const asked = toolAsked(act);
    this.toolWords = "";
    if (!asked || (!this.answers.hold && !this.answers.pad)) return;
    const tool = my.house.bag.tools.find((each) => each.id === this.keptTool(act));
    if (tool) this.toolNamed(tool);
    else this.toolUnnamed(asked);
  },

  toolNamed(tool) {
    const wrong = against(tool, my.house.bag.cards[this.current], dayOf(Date.now()));
    this.toolWords = tool.title;
    this.toolSub = wrong.join(", ") || "kept for today · cal. to " + tool.until;
    this.toolTone = wrong.length ? "problem" : "";
    this.toolShort = tool.title + (wrong.length ? ": " + wrong[0] : "");
  },

  toolUnnamed({ required, kinds }) {
    this.toolWords = required ? "Which tool?" : "No instrument named";
    this.toolSub = required ? "chosen once for the day" : "";
    this.toolTone = "";
    this.toolShort = kinds[0] === "meter" ? "Name the meter" : "Which tool?";
  },

  openTools() {
    const act = my.house.act(this.current);
    const asked = toolAsked(act);
    const card = my.house.bag.cards[this.current];
    const now = this.keptTool(act);
    this.toolTitle = asked.kinds[0] === "meter" ? "Which instrument, for today?" : "Which torque tool, for today?";
    this.tools = my.house.bag.tools
      .filter((tool) => asked.kinds.includes(tool.kind))
      .map((tool) => {
        const wrong = against(tool, card, dayOf(Date.now()));
        return { id: tool.id, title: tool.title, words: wrong.join(", ") || "calibrated to " + tool.until, tone: wrong.length ? "oxide" : "", isKept: tool.id === now };
      });
    this.mode = "tool";
  },

  chooseTool(id) {
    const act = my.house.act(this.current);
    keepTool({ job: this.job, kind: toolAsked(act).kinds[0], id }, Date.now());
    this.freshAct();
    this.backToMain();
    const waiting = my.pending;
    my.pending = null;
    if (waiting) waiting();
  },

});
