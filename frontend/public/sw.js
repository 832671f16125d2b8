/* Beside the pages, while they are installed or open: says so where the server does not answer, and
   takes in what the system shares with Sequor. It keeps no pictures. */
const AWAY = "/away";
const SHARED = "/shared";
const KEPT = "sequor";

addEventListener("install", (event) => {
  // What is no page goes past this script: what a window sends while it closes would be lost in it.
  if (event.addRoutes)
    event.waitUntil(
      event.addRoutes({ condition: { urlPattern: { pathname: "/api/*" } }, source: "network" }),
    );
  event.waitUntil(caches.open(KEPT).then((kept) => kept.addAll([AWAY, "/away.js"])));
});

addEventListener("fetch", (event) => {
  const { request } = event;
  const { pathname } = new URL(request.url);
  if (request.method === "POST" && pathname === SHARED) event.respondWith(takeIn(request));
  else if (request.mode === "navigate" && request.method === "GET")
    event.respondWith(
      fetch(request).catch(async () => (await caches.match(AWAY)) ?? Response.error()),
    );
  else if (pathname === "/away.js")
    event.respondWith(fetch(request).catch(async () => await caches.match(request)));
});

/** What was shared is laid down for the page that asks for it. */
async function takeIn(request) {
  const kept = await caches.open(KEPT);
  const files = (await request.formData()).getAll("pictures");
  await Promise.all(
    files.map((file, place) =>
      kept.put(
        `${SHARED}/${Date.now()}-${place}`,
        new Response(file, { headers: { "X-Name": encodeURIComponent(file.name) } }),
      ),
    ),
  );
  return Response.redirect("/?shared", 303);
}
