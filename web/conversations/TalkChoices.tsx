import { count } from "../shared/words.ts";
import type { TalkOrder } from "./talk-order.ts";
import type { App } from "./use-apps.ts";

const LOOK = "h-8 max-w-56 rounded-full border border-line-strong bg-base-100 px-2.5 text-sm";

/** Conversations of one app only, where there are several. */
export function AppChoice({ apps, app, onApp }: { apps: readonly App[]; app: string | null; onApp: (app: string | null) => void }) {
  if (apps.length < 2) return null;
  return (
    <select className={LOOK} aria-label="App" value={app ?? ""} onChange={({ target }) => onApp(target.value || null)}>
      <option value="">all apps</option>
      {apps.map(({ key, name, talks }) => (
        <option key={key} value={key}>
          {name} ({count(talks)})
        </option>
      ))}
    </select>
  );
}

const ORDERS: Readonly<Record<TalkOrder, string>> = { latest: "latest first", erased: "most erased first", longest: "longest first" };
const isOrder = (value: string): value is TalkOrder => value in ORDERS;

export const OrderChoice = ({ order, onOrder }: { order: TalkOrder; onOrder: (order: TalkOrder) => void }) => (
  <select className={LOOK} aria-label="Order" value={order} onChange={({ target: { value } }) => isOrder(value) && onOrder(value)}>
    {Object.entries(ORDERS).map(([key, words]) => (
      <option key={key} value={key}>
        {words}
      </option>
    ))}
  </select>
);
