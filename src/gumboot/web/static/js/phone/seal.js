// What lies on a phone is closed to whoever signs in there next: under a key of its person, which the server gives at sign-in.

const NAME = "AES-GCM";
const IV_BYTES = 12;

export const canSeal = (crypto = globalThis.crypto) => Boolean(crypto && crypto.subtle);

// The person's key: it is used and never read.
export async function keyFrom(base64, crypto = globalThis.crypto) {
  const raw = Uint8Array.from(atob(base64), (letter) => letter.charCodeAt(0));
  return crypto.subtle.importKey("raw", raw, NAME, false, ["encrypt", "decrypt"]);
}

export async function sealBytes(key, bytes, crypto = globalThis.crypto) {
  const iv = crypto.getRandomValues(new Uint8Array(IV_BYTES));
  return { iv, data: await crypto.subtle.encrypt({ name: NAME, iv }, key, bytes) };
}

export async function unsealBytes(key, { iv, data }, crypto = globalThis.crypto) {
  return crypto.subtle.decrypt({ name: NAME, iv }, key, data);
}

export async function seal(key, value) {
  return sealBytes(key, new TextEncoder().encode(JSON.stringify(value)));
}

export async function unseal(key, sealed) {
  return JSON.parse(new TextDecoder().decode(await unsealBytes(key, sealed)));
}

// Text made small before it is sealed, where the browser can; the first byte says whether it was.
async function through(bytes, stream) {
  return new Response(new Blob([bytes]).stream().pipeThrough(stream)).arrayBuffer();
}

export async function sealText(key, text) {
  const bytes = new TextEncoder().encode(text);
  const small = globalThis.CompressionStream ? await through(bytes, new CompressionStream("gzip")) : null;
  const body = new Uint8Array(small || bytes);
  const whole = new Uint8Array(body.length + 1);
  whole[0] = small ? 1 : 0;
  whole.set(body, 1);
  return sealBytes(key, whole);
}

export async function unsealText(key, sealed) {
  const whole = new Uint8Array(await unsealBytes(key, sealed));
  const body = whole.subarray(1);
  const bytes = whole[0] ? await through(body, new DecompressionStream("gzip")) : body;
  return new TextDecoder().decode(bytes);
}
