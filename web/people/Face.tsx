import { User } from "lucide-react";
import { initials } from "./people-words.ts";

interface Props {
  readonly name: string;
  readonly photo?: string | undefined;
  /** How large it is, and its letters. */
  readonly size?: string;
}

/** A person's small picture, or the first letters of the name. The name itself stands beside it. */
export const Face = ({ name, photo, size = "size-9 text-sm" }: Props) =>
  photo ? (
    <img src={photo} alt="" className={`${size} shrink-0 rounded-field object-cover`} />
  ) : (
    <span
      className={`flex ${size} shrink-0 items-center justify-center rounded-field bg-secondary font-bold text-secondary-content`}
      aria-hidden="true"
    >
      {initials(name) || <User className="size-5" />}
    </span>
  );
