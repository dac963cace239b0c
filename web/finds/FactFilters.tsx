import { BANDED, type BandedFact } from "../../core/finds/bands.ts";
import { useSession, useSessionState } from "../session/use-session.ts";
import { FilterChip } from "./FilterChip.tsx";
import { bandWords, FACT_WORDS } from "./fact-words.ts";
import { toggled } from "./filters.ts";

/** Formats that have a chip: of more the commonest, and those that are chosen. */
const MOST_FORMATS = 24;

/** Filters by facts: format, size, length, pixels. Each thing that can be chosen stands with how many there are. */
export function FactFilters() {
  return (
    <section className="panel flex flex-col gap-1.5 px-3 py-2" aria-label="Facts">
      <Formats />
      {BANDED.map((fact) => (
        <Bands key={fact} fact={fact} />
      ))}
    </section>
  );
}

function Row({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-1.5" role="toolbar" aria-label={name}>
      <span className="w-14 text-sm text-second">{name}</span>
      {children}
    </div>
  );
}

function Formats() {
  const session = useSession();
  const chosen = useSessionState(({ query }) => query.formats);
  const counts = useSessionState(({ answer }) => answer?.formats);
  const common = [...(counts ?? [])].sort(([a, many], [b, more]) => more - many || a.localeCompare(b)).slice(0, MOST_FORMATS);
  const shown = [...new Set([...chosen, ...common.map(([format]) => format)])];
  const left = (counts?.size ?? 0) - common.length;
  return (
    <Row name="format">
      {shown.map((format) => (
        <FilterChip
          key={format}
          isOn={chosen.includes(format)}
          finds={counts?.get(format)}
          onToggle={() => void session.ask({ formats: toggled(chosen, format) })}
        >
          {format}
        </FilterChip>
      ))}
      {left > 0 && <span className="text-[13px] text-second">and {left} more</span>}
    </Row>
  );
}

function Bands({ fact }: { fact: BandedFact }) {
  const session = useSession();
  const bands = useSessionState(({ query }) => query.bands);
  const counts = useSessionState(({ answer }) => answer?.bands[fact]);
  const chosen = bands[fact];
  const some = (counts ?? []).flatMap((count, band) => (count > 0 || chosen.includes(band) ? [band] : []));
  if (some.length === 0) return null;
  return (
    <Row name={FACT_WORDS[fact]}>
      {some.map((band) => (
        <FilterChip
          key={band}
          isOn={chosen.includes(band)}
          finds={counts?.[band]}
          onToggle={() => void session.ask({ bands: { ...bands, [fact]: toggled(chosen, band) } })}
        >
          {bandWords(fact, band)}
        </FilterChip>
      ))}
    </Row>
  );
}
