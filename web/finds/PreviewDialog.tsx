import { useSession, useSessionState } from "../session/use-session.ts";
import { StateAndCondition } from "../shared/Marks.tsx";
import { Modal } from "../shared/Modal.tsx";
import { Picture } from "../shared/Picture.tsx";
import { bytes, nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";

/** A find opened large. Space chooses it, Escape closes. */
export function PreviewDialog({ find, onClose }: { find: Found; onClose: () => void }) {
  const session = useSession();
  const chosen = useSessionState((state) => state.tray.has(find.key));
  return (
    <Modal label={`${nameOf(find)}, large`} box="h-[92vh] w-[92vw] max-w-none p-4" onClose={onClose}>
      {(dialog) => (
        <>
          <div className="min-h-0 flex-1">
            <Picture find={find} side={2048} fit="contain" />
          </div>
          <div className="flex items-center gap-4">
            <h2 className="min-w-0 truncate text-lg font-bold">{nameOf(find)}</h2>
            <StateAndCondition find={find} />
            <span className="text-second">
              {bytes(find.size)}
              {find.width && find.height ? ` · ${find.width} × ${find.height}` : ""}
            </span>
            <button
              type="button"
              className={`button ml-auto ${chosen ? "button-lamp" : ""}`}
              disabled={find.extents.length === 0}
              onClick={() => void session.choose([find.key], !chosen)}
            >
              {chosen ? "In tray ✓" : "Put in tray"}
            </button>
            <button type="button" className="button" onClick={() => dialog.current?.close()}>
              Close <kbd className="key">Esc</kbd>
            </button>
          </div>
        </>
      )}
    </Modal>
  );
}
