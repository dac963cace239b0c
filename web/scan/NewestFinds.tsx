import { useNavigate } from "react-router";
import { useFinds } from "../session/use-finds.ts";
import { useSession } from "../session/use-session.ts";
import { Picture } from "../shared/Picture.tsx";
import { nameOf } from "../shared/words.ts";

/** The latest erased pictures, while the scan goes on. */
export function NewestFinds({ keys }: { keys: readonly string[] }) {
  const session = useSession();
  const navigate = useNavigate();
  const finds = useFinds(keys);
  if (finds.length === 0) return <p className="text-second">None yet. The first pictures appear here as soon as they are found.</p>;
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
