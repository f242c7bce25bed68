// How the phone is held and seen: which thumb, which light, how large a millimetre is.

import { CARD_MM, assumedPoints, keepPoints } from "./ending.js";
import { lightNow, nextLight, sideNow, setSide } from "../light.js";

const LIGHT = { "": "Light: as the phone", dark: "Light: dark garage", sun: "Light: in the sun", plain: "Light: plain" };
const STEP = 0.01;

export const seeing = (my) => ({
  sideWords: sideNow() === "left" ? "Thumb: left" : "Thumb: right",
  lightWords: LIGHT[lightNow()],
  points: 0,

  otherSide() {
    const side = setSide(sideNow() === "left" ? "right" : "left");
    this.sideWords = side === "left" ? "Thumb: left" : "Thumb: right";
  },

  otherLight() {
    this.lightWords = LIGHT[nextLight()];
  },

  openScale() {
    this.screen = "scale";
    this.points = assumedPoints();
    this.scaleShown();
  },

  scaleBy(way) {
    this.points *= 1 + way * STEP;
    this.scaleShown();
  },

  scaleShown() {
    this.$refs.scale.querySelector("svg").style.width = (this.points * CARD_MM).toFixed(1) + "px";
  },

  keepScale() {
    keepPoints(this.points);
    const back = this.current;
    this.current = "";
    if (back) this.showAct(back);
    else if (my.house) this.showTrail();
  },
});
