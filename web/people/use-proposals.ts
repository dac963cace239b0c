import { useLiveQuery } from "dexie-react-hooks";
import { loadMedia } from "../kept/database.ts";
import { useJob } from "../session/use-session.ts";

/** A database that may be a messenger. */
export interface Proposed {
  readonly medium: number;
  readonly find: string;
  readonly table: string;
  readonly sureness: number;
}

/** Databases of the ticket that may be messengers and are not read as such, the surest first; as they are kept, whoever keeps them. */
export function useProposals(): readonly Proposed[] {
  const { id } = useJob();
  const media = useLiveQuery(() => loadMedia(id), [id]) ?? [];
  const all = media.filter(({ aside }) => !aside).flatMap(({ id: medium, scan }) => scan.proposals.map((one) => ({ medium, ...one })));
  return all.sort((a, b) => b.sureness - a.sureness);
}
