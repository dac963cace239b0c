import { serveStatic } from "@hono/node-server/serve-static";
import { Hono } from "hono";
import { headers, onlyLocal } from "./guards.ts";
import { type Medium, rangeAnswer } from "./media.ts";

/** The whole server: the built application, and the media it was started with. `dist` is relative to the working folder. */
export function createApp(dist: string, media: readonly Medium[]): Hono {
  const app = new Hono();
  app.use(headers, onlyLocal);
  app.get("/api/media", (context) => context.json(media.map(({ path: _, ...shown }) => ({ ...shown, url: `/media/${shown.id}` }))));
  app.get("/media/:id", (context) => {
    const medium = media.find(({ id }) => id === context.req.param("id"));
    if (!medium) return context.text("No such medium.", 404);
    const answer = rangeAnswer(medium, context.req.header("range"));
    const shown = Object.fromEntries(answer.headers);
    return answer.body ? context.body(answer.body, 206, shown) : context.body(null, 416, shown);
  });
  app.use(
    "/*",
    serveStatic({
      root: dist,
      onFound: (path, context) => context.header("Cache-Control", path.includes("/assets/") ? "max-age=31536000, immutable" : "no-cache"),
    }),
  );
  // Every other address is a screen of the application.
  app.get("/*", serveStatic({ root: dist, path: "index.html" }));
  return app;
}
