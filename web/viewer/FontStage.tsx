import { useEffect, useState } from "react";
import { nameOf } from "../shared/words.ts";
import type { Found } from "../worker/finds/protocol.ts";
import { useAnswer } from "./use-answer.ts";
import { WordStage } from "./WordStage.tsx";

const LINES = [
  "The quick brown fox jumps over the lazy dog",
  "ABCDEFGHIJKLMNOPQRSTUVWXYZ abcdefghijklmnopqrstuvwxyz",
  "0123456789 . , ; : ! ? & @ € § “ ” – ÄÖÜ äöü ß éèê ñ ł ş ț",
];
const SIZES = [44, 28, 20];

/** A font by lines of text in it. */
export function FontStage({ find }: { find: Found }) {
  const answer = useAnswer((looking) => looking.bytes(find), [find.key]);
  const bytes = answer && "bytes" in answer ? answer.bytes : null;
  const [family, setFamily] = useState<string | null>(null);
  const [broken, setBroken] = useState(false);
  useEffect(() => {
    if (!bytes) return;
    const name = `shown ${find.key}`;
    let face: FontFace | null = null;
    let gone = false;
    // Given as bytes: the browser checks it, and nothing is loaded by name (CSS Font Loading Level 3 §2).
    void new FontFace(name, bytes).load().then(
      (loaded) => {
        if (gone) return;
        face = loaded;
        document.fonts.add(loaded);
        setFamily(name);
      },
      () => setBroken(true),
    );
    return () => {
      gone = true;
      if (face) document.fonts.delete(face);
      setFamily(null);
    };
  }, [bytes, find.key]);
  if (answer && "word" in answer) return <WordStage find={find} word={answer.word} />;
  if (broken) return <WordStage find={find} word="This browser does not take it for a sound font." />;
  if (!family) return <span className="loading loading-dots m-6" role="status" aria-label="It is being read" />;
  return (
    <div
      className="flex size-full flex-col justify-center gap-8 overflow-auto bg-base-100 p-8"
      role="img"
      aria-label={`Letters of ${nameOf(find)}`}
    >
      {LINES.map((line, index) => (
        <p key={line} style={{ fontFamily: `"${family}"`, fontSize: SIZES[index] }} className="leading-tight wrap-anywhere">
          {line}
        </p>
      ))}
    </div>
  );
}
