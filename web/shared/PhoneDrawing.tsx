import type { ModelCard, PhoneKey } from "../../core/phones/model-cards.ts";

const BODY = { x: 14, y: 4, width: 72, height: 132 };
/** Top of each key, seen from the front. */
const SIDE_KEYS: Readonly<Partial<Record<PhoneKey, { top: number; height: number }>>> = {
  "volume up": { top: 30, height: 18 },
  "volume down": { top: 51, height: 18 },
  power: { top: 78, height: 16 },
};

/** A phone of our own drawing. Keys in `held` are lit and named by an arrow. */
export function PhoneDrawing({
  keysAt,
  held = [],
  dark = false,
  className = "h-24",
}: {
  keysAt: ModelCard["keysAt"];
  held?: readonly PhoneKey[];
  dark?: boolean;
  className?: string;
}) {
  const side = (key: PhoneKey) => (key === "power" ? keysAt.power : keysAt.volume);
  return (
    <svg viewBox="0 0 100 140" className={className} aria-hidden="true">
      {Object.entries(SIDE_KEYS).map(([name, { top, height }]) => {
        const key = name as PhoneKey;
        const x = side(key) === "left" ? BODY.x - 5 : BODY.x + BODY.width - 1;
        const lit = held.includes(key);
        return (
          <rect key={key} x={x} y={top} width="6" height={height} rx="2" fill={lit ? "var(--color-accent)" : "var(--color-neutral)"} />
        );
      })}
      <rect {...BODY} rx="11" fill="#20242b" />
      <rect x="19" y="10" width="62" height={keysAt.home ? 104 : 120} rx="6" fill={dark ? "#08090b" : "#fbf7ec"} />
      {keysAt.home && (
        <rect x="40" y="119" width="20" height="10" rx="5" fill={held.includes("home") ? "var(--color-accent)" : "#6b717c"} />
      )}
    </svg>
  );
}
