// What the camera sees, for as long as somebody looks: it is opened, given light, and dark again whichever way it is left.

export const glass = (my) => ({
  hasCamera: false,
  hasTorch: false,
  torchOn: false,
  cameraWords: "",

  async openGlass(words) {
    this.screen = "camera";
    my.glassWords = words;
    this.cameraWords = words;
    this.hasCamera = false;
    this.hasTorch = false;
    this.torchOn = false;
    const opened = Symbol("opened");
    my.opened = opened;
    let stream = null;
    try {
      const wanted = { video: { facingMode: "environment", width: { ideal: 1920 }, height: { ideal: 1080 } }, audio: false };
      stream = await navigator.mediaDevices.getUserMedia(wanted);
    } catch {
      this.cameraWords = globalThis.isSecureContext ? "No camera is open here. " + words : "Phones open the camera only to https addresses. Use a picture instead.";
      return;
    }
    // Left meanwhile: a camera that nobody looks through stays dark.
    if (my.opened !== opened) {
      for (const track of stream.getTracks()) track.stop();
      return;
    }
    my.glass = stream;
    this.hasCamera = true;
    this.$refs.video.srcObject = stream;
    await this.$refs.video.play().catch(() => {});
    const [track] = stream.getVideoTracks();
    this.hasTorch = Boolean(track.getCapabilities && track.getCapabilities().torch);
  },

  closeCamera() {
    this.darken();
    this.screen = "act";
    this.freshAct();
  },

  // Whichever way the camera is left, it does not go on looking.
  darken() {
    this.scanning = false;
    this.shutGlass();
  },

  shutGlass() {
    for (const track of my.glass ? my.glass.getTracks() : []) track.stop();
    my.glass = null;
    my.opened = null;
    this.hasCamera = false;
  },

  // Back from elsewhere, the phone's own camera among them.
  async reopen() {
    if (this.screen === "camera" && !my.glass) await this.openGlass(my.glassWords);
  },

  async flipTorch() {
    this.torchOn = !this.torchOn;
    const [track] = my.glass.getVideoTracks();
    await track.applyConstraints({ advanced: [{ torch: this.torchOn }] }).catch(() => {
      this.torchOn = false;
    });
  },
});
