import { useNavigate } from "react-router";
import { useFinds } from "../session/use-finds.ts";
import { useSession } from "../session/use-session.ts";
import { Picture } from "../shared/Picture.tsx";
import { nameOf } from "../shared/words.ts";

/** The latest finds that are worth a look, lost ones first: while the scan goes on, and when one comes back to it. */
export function NewestFinds({ keys, isOver }: { keys: readonly string[]; isOver: boolean }) {
  const session = useSession();
  const navigate = useNavigate();
  const finds = useFinds(keys);
  if (finds.length === 0)
    return (
      <p className="text-second">
        {isOver
          ? "No pictures, films, sounds or documents were found on this medium."
          : "None yet. What is found appears here as it comes, lost pictures first."}
      </p>
    );
  return (
    <ul className="grid grid-cols-9 gap-2">
      {finds.slice(0, 9).map((find) => (
        <li key={find.key}>
          <button
            type="button"
            className="block aspect-[4/3] w-full cursor-pointer overflow-hidden rounded-field"
            title={nameOf(find)}
            onClick={() => {
              session.select(find);
              navigate("../finds");
            }}
          >
            <Picture find={find} side={320} fit="cover" />
          </button>
        </li>
      ))}
    </ul>
  );
}
