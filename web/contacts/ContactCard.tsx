import type { ContactValues } from "../../core/finds/record.ts";
import { EntryFacts, Fact } from "../people/EntryFacts.tsx";
import { PersonLink } from "../people/PersonLink.tsx";
import type { PersonEntry } from "../worker/finds/people-desk.ts";

/** All that is known of a contact. */
export function ContactCard({ entry }: { entry: PersonEntry }) {
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
  } = entry.values as ContactValues;
  const lines = (address: NonNullable<ContactValues["addresses"]>[number]) =>
    [address.street, address.postcode, address.city, address.region, address.country].filter(Boolean).join(", ");
  const own = phones[0]?.number ?? emails[0]?.address ?? name;
  return (
    <EntryFacts entry={entry} title={name ?? phones[0]?.number ?? "No name"} more={own && <PersonLink address={own} />}>
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
