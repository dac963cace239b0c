import { Lock } from "lucide-react";
import type { ShownScan } from "../session/session-state.ts";
import { useJob } from "../session/use-session.ts";

/** Says that the storage of a ticket is encrypted, and what that means for what can be found. Nothing where it is not. */
export function EncryptedNotice({ volumes }: { volumes: ShownScan["volumes"] }) {
  // A phone that says that it encrypts nothing is believed: its volume could, and does not.
  const mayBe = useJob().facts.encryption !== "none";
  const encrypted = new Map(
    volumes.flatMap(({ encryption, filesystem }) =>
      encryption && (mayBe || filesystem === "encrypted") ? [[encryption, filesystem === "encrypted"] as const] : [],
    ),
  );
  if (encrypted.size === 0) return null;
  return (
    <section className="flex gap-3 rounded-box bg-warning px-4 py-2.5 text-warning-content" aria-label="Encrypted storage">
      <Lock className="mt-0.5 size-5 shrink-0" aria-hidden="true" />
      <div>
        {[...encrypted].map(([words, asAWhole]) => (
          <p key={words}>
            <strong>{asAWhole ? "This storage is encrypted." : "Parts of this storage may be encrypted."}</strong> {words}
          </p>
        ))}
        <p>What helps: the phone itself, unlocked by its owner (shared storage and its own backup), or the key.</p>
      </div>
    </section>
  );
}
