import { Hono } from "hono";
import { bodyLimit } from "hono/body-limit";
import { Hand, type PracticeBench } from "../standins/practice-bench.ts";
import { onlyOwnPage } from "./guards.ts";

/** What a hand does is said in a few words. */
const MAX_BODY = 4096;

/** The practice panel's side of the server: what lies on the bench, and hands that do something to it. */
export function practiceRoutes(bench: PracticeBench | null): Hono {
  const app = new Hono();
  app.get("/", (context) => context.json(bench?.list() ?? []));
  app.post(
    "/:id",
    onlyOwnPage,
    bodyLimit({ maxSize: MAX_BODY, onError: (context) => context.text("That is too much.", 413) }),
    async (context) => {
      const hand = Hand.safeParse(await context.req.json().catch(() => null));
      if (!hand.success) return context.text("A hand cannot do that.", 400);
      return bench?.act(context.req.param("id"), hand.data) ? context.json(bench.list()) : context.text("No such practice phone.", 404);
    },
  );
  app.get("/:id/things/:name", (context) => {
    const thing = bench?.thing(context.req.param("id"), context.req.param("name"));
    if (!thing) return context.text("No such thing lies there.", 404);
    return context.body(new Uint8Array(thing.bytes), 200, {
      "Content-Type": "application/octet-stream",
      "Content-Disposition": `attachment; filename="${thing.name}"`,
      "Cache-Control": "no-store",
    });
  });
  return app;
}
