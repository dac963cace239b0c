import { useLiveQuery } from "dexie-react-hooks";
import { Smartphone, Usb } from "lucide-react";
import { useNavigate } from "react-router";
import { stillOpen } from "../../core/phones/ledger.ts";
import { database } from "../kept/database.ts";
import { PhoneCard } from "../phones/PhoneCard.tsx";
import { chooseUsbPhone, hasUsb, usePhones } from "../phones/phones.ts";
import { newPhoneTicket } from "../session/offered.ts";

/** Phones that are plugged in now, and how to get one seen. */
export function AttachedPhones({ alone }: { alone: boolean }) {
  const navigate = useNavigate();
  const phones = usePhones().filter(({ state }) => state !== "nothing attached");
  const tickets =
    useLiveQuery(() =>
      database.jobs.filter(({ phone, handedOver, ledger }) => Boolean(phone) && (!handedOver || stillOpen(ledger).length > 0)).toArray(),
    ) ?? [];
  return (
    <>
      {phones.map((phone) => {
        const ticket = tickets.find((job) => job.phone === phone.serial);
        const ticketId = async () => ticket?.id ?? (await newPhoneTicket(phone));
        const take = async () => navigate(`/ticket/${await ticketId()}/${ticket ? (ticket.handedOver ? "logbook" : "ways-in") : "intake"}`);
        const takePeople = async () => navigate(`/ticket/${await ticketId()}/scan`, { state: { take: "people" } });
        return (
          <PhoneCard
            key={phone.id}
            phone={phone}
            ticket={ticket?.number ?? null}
            left={ticket?.handedOver ? stillOpen(ticket.ledger).length : 0}
            onTake={() => void take()}
            onTakePeople={() => void takePeople()}
          />
        );
      })}
      {phones.length === 0 && (
        <p className="relative flex h-9 w-full items-center gap-2 font-bold">
          <Smartphone className="size-5" strokeWidth={1.5} aria-hidden="true" />
          {alone ? "Nothing is plugged in." : "No phone is plugged in."}
        </p>
      )}
    </>
  );
}

/** How to get a phone seen. */
export function FindPhone() {
  return (
    <div>
      <p className="text-[13.5px] text-second">
        A phone does not show up? A cable that only charges, a hub, or the phone's USB mode are the usual reasons.
      </p>
      {hasUsb() && (
        <button type="button" className="button mt-1.5 h-8" onClick={() => void chooseUsbPhone()}>
          <Usb className="size-4" aria-hidden="true" /> Attach a phone over USB…
        </button>
      )}
    </div>
  );
}
