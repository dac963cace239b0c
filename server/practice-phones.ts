import { Hono } from "hono";
import { z } from "zod";
import { KEYS } from "../core/phones/model-cards.ts";
import type { PracticeBench } from "../standins/practice-bench.ts";

const Hand = z.discriminatedUnion("do", [
  z.object({ do: z.literal("tap"), button: z.string().max(40) }),
  z.object({ do: z.literal("hold"), keys: z.array(z.enum(KEYS)).min(1).max(4) }),
  z.object({ do: z.literal("cable"), in: z.boolean() }),
  z.object({ do: z.literal("mouse"), in: z.boolean() }),
  z.object({ do: z.literal("charge") }),
  z.object({ do: z.literal("reset") }),
]);

/** The practice panel's side of the server: what lies on the bench, and hands that do something to it. */
export function practiceRoutes(bench: PracticeBench | null): Hono {
  const app = new Hono();
  app.get("/", (context) => context.json(bench?.list() ?? []));
  app.post("/:id", async (context) => {
    const hand = Hand.safeParse(await context.req.json().catch(() => null));
    if (!hand.success) return context.text("A hand cannot do that.", 400);
    return bench?.act(context.req.param("id"), hand.data) ? context.json(bench.list()) : context.text("No such practice phone.", 404);
  });
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
