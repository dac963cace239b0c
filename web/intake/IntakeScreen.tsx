import { ArrowRight, Printer } from "lucide-react";
import { Link } from "react-router";
import { Advice } from "./Advice.tsx";
import { IntakeForm } from "./IntakeForm.tsx";
import { PrintedTicket } from "./PrintedTicket.tsx";

/** What is wrong, what do they want, and what can they hope for? */
export function IntakeScreen() {
  return (
    <>
      <main className="flex min-h-0 flex-1 flex-col gap-2.5 p-3.5 print:hidden">
        <div className="grid min-h-0 flex-1 grid-cols-[1.1fr_1fr] gap-3.5">
          <IntakeForm />
          <Advice />
        </div>
        <div className="flex shrink-0 justify-end gap-2">
          <button type="button" className="button" onClick={() => print()}>
            <Printer className="size-4" aria-hidden="true" /> Print the ticket
          </button>
          <Link to="../ways-in" className="button button-main">
            To the ways in <ArrowRight className="size-4" aria-hidden="true" />
          </Link>
        </div>
      </main>
      <PrintedTicket />
    </>
  );
}
