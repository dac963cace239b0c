import type { TalkView } from "../../core/stores/people/questions.ts";

/** In which order conversations stand. */
export type TalkOrder = "latest" | "erased" | "longest";

/** Conversations come the latest first: what is alike stays so. */
export function ordered(talks: readonly TalkView[], order: TalkOrder): readonly TalkView[] {
  if (order === "latest") return talks;
  const by = order === "erased" ? "erased" : "messages";
  return talks.toSorted((a, b) => b[by] - a[by]);
}
