// Keeps the pack for when there is no network: what is kept answers at once, and is renewed behind it where it can be.
"use strict";
const KEPT = "pack";

self.addEventListener("install", (event) => {
  event.waitUntil(
    caches
      .open(KEPT)
      .then((kept) => kept.addAll(["./", "manifest.webmanifest", "mark.svg"]))
      .then(() => self.skipWaiting()),
  );
});
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  if (event.request.method !== "GET" || !address.href.startsWith(self.registration.scope)) return;
  event.respondWith(
    caches.open(KEPT).then(async (kept) => {
      const key = event.request.mode === "navigate" ? self.registration.scope : event.request;
      const found = await kept.match(key);
      const fresh = fetch(event.request).then((answer) => {
        if (answer.ok) kept.put(key, answer.clone());
        return answer;
      });
      if (found) {
        fresh.catch(() => undefined);
        return found;
      }
      return fresh;
    }),
  );
});
