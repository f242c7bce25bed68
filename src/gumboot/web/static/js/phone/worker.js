// The worker of the whole site: it keeps what is shipped and the hand's page, answers with them where there is no signal, and sends what waits.
// Nothing that says anything of a house or a person is kept by it.

import { Phone } from "./phone.js";

const PREFIX = "gumboot-";
const PATIENCE_MS = 3500;
const HAND = /^\/(hand|jobs\/[^/]+\/hand)$/;
const SYNC = "gumboot-send";
const TAKE_OVER = "take over";

// What a browser goes to and is no page of ours to fall back from: signing in and out, and files, which may take their time to be made.
const isPage = (path) => !path.startsWith("/sign-") && !path.includes("/download/");

async function network(request, patience) {
  const stop = new AbortController();
  const clock = setTimeout(() => stop.abort(), patience);
  try {
    return await fetch(request, { signal: stop.signal });
  } finally {
    clearTimeout(clock);
  }
}

// As it was shipped: its address changes with what it says.
async function shipped(request, name) {
  const kept = await caches.match(request, { ignoreVary: true });
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) {
    const cache = await caches.open(name);
    await cache.put(request, answer.clone());
  }
  return answer;
}

export function work({ mark, files, shell }) {
  const name = PREFIX + mark;
  const own = globalThis;

  const page = async (request, path) => {
    const cache = await caches.open(name);
    if (HAND.test(path)) {
      const kept = await cache.match(shell);
      if (kept) return kept;
    }
    try {
      return await network(request, PATIENCE_MS);
    } catch {
      return (await cache.match(shell)) || Response.error();
    }
  };

  own.addEventListener("install", (event) => {
    event.waitUntil(
      (async () => {
        const cache = await caches.open(name);
        await cache.addAll([...files, shell]);
      })(),
    );
  });

  // A page that was just opened says when: never while somebody is in the middle of something.
  own.addEventListener("message", (event) => {
    if (event.data === TAKE_OVER) own.skipWaiting();
  });

  own.addEventListener("activate", (event) => {
    event.waitUntil(
      (async () => {
        // The version before stays too: pages that are open still name its files.
        const kept = (await caches.keys()).filter((each) => each.startsWith(PREFIX) && each !== name);
        for (const old of kept.slice(0, -1)) await caches.delete(old);
        await own.clients.claim();
      })(),
    );
  });

  own.addEventListener("fetch", (event) => {
    const { request } = event;
    const { origin, pathname } = new URL(request.url);
    if (request.method !== "GET" || origin !== own.location.origin) return;
    if (pathname.startsWith("/static/")) event.respondWith(shipped(request, name));
    else if (request.mode === "navigate" && isPage(pathname)) event.respondWith(page(request, pathname));
  });

  own.addEventListener("sync", (event) => {
    if (event.tag === SYNC) event.waitUntil(new Phone({ device: "" }).sender.run());
  });
}
