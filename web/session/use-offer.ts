import { useState } from "react";
import { whyUnkept } from "../kept/no-room.ts";
import { nameOf, type Offered } from "./offered.ts";

/** What a drop zone shows while something that was put on it is looked at. */
export interface Offer {
  /** Name of what is looked at now. */
  readonly busy: string | null;
  readonly refusal: string | null;
}

/** Takes what was offered; `use` answers why it cannot be worked on, or null. */
export function useOffer(use: (offered: Offered) => Promise<string | null>): Offer & { take(offered: Offered | null): Promise<void> } {
  const [offer, setOffer] = useState<Offer>({ busy: null, refusal: null });
  return {
    ...offer,
    async take(offered) {
      if (!offered) {
        setOffer({ busy: null, refusal: "The browser does not give what was dropped: choose it by the button." });
        return;
      }
      const name = nameOf(offered.grant);
      setOffer({ busy: name, refusal: null });
      const progress = (part: number) => setOffer({ busy: `${name}, ${Math.floor(part * 100)} % unpacked`, refusal: null });
      setOffer({ busy: null, refusal: await use({ ...offered, progress }).catch(whyUnkept) });
    },
  };
}
