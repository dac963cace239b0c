import type { ContactValues } from "../../core/finds/record.ts";
import { type AsItWas, asItWas } from "../../core/stores/people/as-it-was.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { PersonLink } from "../people/PersonLink.tsx";
import { usePeople } from "../people/use-people.ts";
import { plural } from "../shared/words.ts";
import type { PersonEntry } from "../worker/finds/people-desk.ts";
import { CardPast } from "./CardPast.tsx";

/** All that is known of a contact. `moment`: as it was then. */
export function ContactCard({ entry, moment }: { entry: PersonEntry; moment: number | null }) {
  const now = entry.values as ContactValues;
  const past = usePeople((desk) => desk.pastOf(entry.key), entry.key) ?? now.history ?? [];
  const then = moment === null ? null : asItWas({ ...now, history: [...past] }, entry.state, moment);
  const {
    name,
    phones = [],
    emails = [],
    addresses = [],
    organization,
    title,
    note,
    nickname,
    birthday,
    websites = [],
    hiddenBy,
  } = then?.values ?? now;
  const lines = (address: NonNullable<ContactValues["addresses"]>[number]) =>
    [address.street, address.postcode, address.city, address.region, address.country].filter(Boolean).join(", ");
  // Who it is now is known of; a number of before may be nobody's any more.
  const own = now.phones?.[0]?.number ?? now.emails?.[0]?.address ?? now.name;
  return (
    <EntryFacts
      entry={entry}
      title={name ?? phones[0]?.number ?? "No name"}
      past={<CardPast past={past} erasedAt={now.erasedAt} />}
      more={own && <PersonLink address={own} />}
    >
      {then && <ThenWords then={then} />}
      {now.photo && (
        <Fact name="picture">
          <img src={now.photo} alt={`of ${name ?? "this person"}`} className="max-h-24 max-w-24 rounded-field" />
        </Fact>
      )}
      {phones.map(({ number, type }, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a number may stand twice, and the list does not change.
        <Fact key={index} name={type ?? "number"}>
          <span className="font-mono">{number}</span>
        </Fact>
      ))}
      {emails.map(({ address, type }) => (
        <Fact key={address} name={type ? `mail, ${type}` : "mail"}>
          {address}
        </Fact>
      ))}
      {addresses.map((address) => (
        <Fact key={lines(address)} name="address">
          {lines(address)}
        </Fact>
      ))}
      {organization && <Fact name="works at">{organization}</Fact>}
      {title && <Fact name="as">{title}</Fact>}
      {nickname && <Fact name="called">{nickname}</Fact>}
      {birthday && <Fact name="birthday">{birthday}</Fact>}
      {websites.map((site) => (
        <Fact key={site} name="page">
          {site}
        </Fact>
      ))}
      {note && <Fact name="note">{note}</Fact>}
      {hiddenBy && (
        <div className="col-span-2 border-t border-dashed border-line pt-2">
          <h3 className="font-bold">Why the phone does not show it</h3>
          <p className="text-second">
            {hiddenBy.group
              ? `Its group “${hiddenBy.group}” is not among the shown ones`
              : hiddenBy.account
                ? `Its account “${hiddenBy.account}” is not among the shown ones`
                : "It is in no shown group"}
            {hiddenBy.group && hiddenBy.account ? `, in the account “${hiddenBy.account}”` : ""}. To show it: address book → filter → all
            contacts. Nothing needs to be recovered.
          </p>
        </div>
      )}
    </EntryFacts>
  );
}

const THERE = {
  yes: "As it was then.",
  no: "It was erased by then.",
  maybe: "It is erased, and nothing says since when.",
} as const;

/** How surely a card is what it was. */
const ThenWords = ({ then: { there, open } }: { then: AsItWas }) => (
  <p className="col-span-2 rounded-field bg-glow px-3 py-2">
    {THERE[there]}
    {open.length > 0 && ` ${plural(open.length, "change")} may have come before or after that day, nothing says which: see below.`}
  </p>
);
