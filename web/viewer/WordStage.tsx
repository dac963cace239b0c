import type { Found } from "../worker/finds/protocol.ts";

/** What stands where a find cannot be shown, and what can be done with it. */
export function WordStage({ find, word }: { find: Found; word?: string }) {
  return (
    <div className="flex size-full flex-col items-center justify-center gap-2 p-6 text-center">
      <strong className="text-2xl uppercase">{find.format}</strong>
      <p className="max-w-prose text-second">{word ?? reason(find)}</p>
      {find.extents.length > 0 && <p className="text-second">It can be put in the tray and handed over as it is.</p>}
    </div>
  );
}

function reason({ extents, kind }: Found): string {
  if (extents.length === 0) return "Nothing of it is left to be shown: its place is in use by something else.";
  if (kind === "database") return "A database: its tables open from the facts beside it.";
  if (kind === "archive") return "It holds other files: those that could be opened are finds of their own.";
  return "There is nothing here that shows contents of this format.";
}
