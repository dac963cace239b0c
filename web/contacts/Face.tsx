import { initials } from "../people/people-words.ts";

/** A person's small picture, or the first letters of the name. The name itself stands beside it. */
export const Face = ({ name, photo }: { name: string; photo: string | undefined }) =>
  photo ? (
    <img src={photo} alt="" className="size-9 shrink-0 rounded-field object-cover" />
  ) : (
    <span
      className="flex size-9 shrink-0 items-center justify-center rounded-field bg-secondary text-sm font-bold text-secondary-content"
      aria-hidden="true"
    >
      {initials(name)}
    </span>
  );
