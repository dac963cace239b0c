import { type Mapping, MappingSchema } from "./mapping.ts";
import bellhatch from "./shipped/bellhatch.json" with { type: "json" };
import cogwhistle from "./shipped/cogwhistle.json" with { type: "json" };
import lanternpost from "./shipped/lanternpost.json" with { type: "json" };
import papercrow from "./shipped/papercrow.json" with { type: "json" };
import pigeonloft from "./shipped/pigeonloft.json" with { type: "json" };
import quillmoth from "./shipped/quillmoth.json" with { type: "json" };
import ropewalk from "./shipped/ropewalk.json" with { type: "json" };
import thimblewire from "./shipped/thimblewire.json" with { type: "json" };
import tincan from "./shipped/tincan.json" with { type: "json" };

const FILES: readonly unknown[] = [bellhatch, cogwhistle, lanternpost, papercrow, pigeonloft, quillmoth, ropewalk, thimblewire, tincan];

/** Messengers that are known from the start, each a file in the form that anybody's mapping has. */
export const SHIPPED: readonly Mapping[] = FILES.map((file) => MappingSchema.parse(file));
