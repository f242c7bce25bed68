// Pictures made small, and codes read out of them.

export const LONGEST = 1600;
const QUALITY = 0.82;

// Drawn anew: what a camera writes beside its points, such as the place, stays behind.
export async function shrunk(source, width, height) {
  const by = Math.min(1, LONGEST / Math.max(width, height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(width * by);
  canvas.height = Math.round(height * by);
  canvas.getContext("2d").drawImage(source, 0, 0, canvas.width, canvas.height);
  return new Promise((done) => {
    canvas.toBlob(done, "image/jpeg", QUALITY);
  });
}

let reader = null;

// The decoder is a library of its own, loaded when it is first needed.
function library() {
  reader ??= new Promise((done, failed) => {
    const script = document.createElement("script");
    script.src = new URL("../../zxing.min.js", import.meta.url).href;
    script.addEventListener("load", () => done(globalThis.ZXing));
    script.addEventListener("error", failed);
    document.head.append(script);
  });
  return reader;
}

// The text of a code in a picture; nothing where none is found.
export async function decoded(source) {
  const made = await library();
  const width = source.videoWidth || source.width;
  const height = source.videoHeight || source.height;
  const canvas = document.createElement("canvas");
  const by = Math.min(1, LONGEST / Math.max(width, height));
  canvas.width = Math.round(width * by);
  canvas.height = Math.round(height * by);
  canvas.getContext("2d").drawImage(source, 0, 0, canvas.width, canvas.height);
  const hints = new Map([[made.DecodeHintType.TRY_HARDER, true]]);
  const light = new made.HTMLCanvasElementLuminanceSource(canvas);
  try {
    return new made.MultiFormatReader().decode(new made.BinaryBitmap(new made.HybridBinarizer(light)), hints).getText();
  } catch {
    return "";
  }
}
