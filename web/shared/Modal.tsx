import { type ReactNode, type RefObject, useEffect, useRef } from "react";

/** A dialog over everything else: it takes the focus, Escape closes it, and the focus goes back to where it was. `box`: how its box looks. */
export function Modal({
  label,
  box,
  onClose,
  children,
}: {
  label: string;
  box: string;
  onClose: () => void;
  children: (dialog: RefObject<HTMLDialogElement | null>) => ReactNode;
}) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  return (
    <dialog ref={dialog} className="modal" aria-label={label} onClose={onClose}>
      <div className={`modal-box flex flex-col gap-3 ${box}`}>{children(dialog)}</div>
    </dialog>
  );
}
