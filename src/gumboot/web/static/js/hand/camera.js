// The camera: a picture of the act in hand, or the code on a plate. Where there is none, a picture that was taken otherwise.

import { freshId } from "../phone/items.js";
import { decoded, shrunk } from "./pictures.js";
import { photoAt, pictureAt } from "../addresses.js";

const SCAN_MS = 300;

export const camera = (my) => ({
  cameraTitle: "",
  cameraTold: "",
  fileWords: "",
  scanning: false,
  hasBefore: false,

  async openCamera() {
    this.scanning = false;
    this.cameraTold = "";
    this.cameraTitle = "Picture: " + this.title;
    this.fileWords = "Take it with the phone's own camera, or choose one";
    await this.openGlass("It is shrunk, and says nothing of where it was taken.");
    await this.yesterday();
  },

  async openScan() {
    this.scanning = true;
    this.cameraTold = "";
    this.hasBefore = false;
    this.cameraTitle = "Scan: " + this.title;
    this.fileWords = "From a picture of the code";
    await this.openGlass("Hold the code in the glass; it is read by itself.");
    this.scan();
  },

  // A lug's mark of yesterday beside what the camera sees today.
  async yesterday() {
    this.hasBefore = false;
    const of = this.current.startsWith("recheck:") ? this.current.replace("recheck:", "torque:") : this.current;
    const told = ((my.house.carried.photos || {})[of] || []).at(-1);
    if (!told) return;
    const blob = await my.phone.bags.photo(this.job, told.hash);
    this.$refs.before.src = blob ? URL.createObjectURL(blob) : pictureAt(this.job, told.hash);
    this.hasBefore = true;
  },

  async shoot() {
    await this.keepPicture(await shrunk(this.$refs.video, this.$refs.video.videoWidth, this.$refs.video.videoHeight));
  },

  async fileChosen() {
    const [file] = this.$refs.file.files;
    if (!file) return;
    this.$refs.file.value = "";
    const picture = await createImageBitmap(file, { imageOrientation: "from-image" }).catch(() => null);
    if (!picture) {
      this.cameraTold = "That is no picture that can be read here. Take it as JPEG or PNG.";
      return;
    }
    if (this.scanning) await this.readFrom(picture);
    else await this.keepPicture(await shrunk(picture, picture.width, picture.height));
  },

  async keepPicture(blob) {
    const { house, phone } = my;
    const action = photoAt(this.job, this.current);
    const who = phone.me ? phone.me.who : house.carried.person.name;
    try {
      await phone.items.put({
        id: freshId(), kind: "photo", who, at: Date.now(), state: "waiting", from: 0, action, fields: {}, title: "Picture: " + this.title,
        job: this.job, act: this.current, under: house.bag.revision, device: phone.sender.device, blob,
      });
    } catch (failed) {
      this.closeCamera();
      this.tellFull(failed);
      return;
    }
    this.closeCamera();
    this.tell("Kept", "ok", Math.round(blob.size / 1000) + " kB, sent after the records");
    await this.count();
    this.freshAct();
    phone.send().then(() => this.afterSend());
  },

  async scan() {
    while (this.scanning && this.screen === "camera") {
      if (this.hasCamera && this.$refs.video.videoWidth) await this.readFrom(this.$refs.video, true);
      await new Promise((done) => {
        setTimeout(done, SCAN_MS);
      });
    }
  },

  async readFrom(picture, quiet = false) {
    const found = await decoded(picture);
    if (!found) {
      if (!quiet) this.cameraTold = "No code was found in that picture: nearer, straight, without glare.";
      return;
    }
    this.closeCamera();
    this.text = found;
    this.mode = "text";
    this.tell("Read", "ok", found);
  },
});
