import { useEffect, useRef, useState } from "react";
import { useSession } from "../session/use-session.ts";
import type { AnswerView, Found } from "../worker/finds/protocol.ts";

/** Finds are asked for in blocks of this many, so that scrolling line by line does not ask for each line. */
const BLOCK = 60;

/** The finds of an answer that are in sight, by their place in it. Old ones stay shown until the new ones come. */
export function useWindow(answer: AnswerView | null, from: number, to: number): ReadonlyMap<number, Found> {
  const session = useSession();
  const [finds, setFinds] = useState<ReadonlyMap<number, Found>>(new Map());
  const question = useRef(0);
  const first = Math.floor(from / BLOCK) * BLOCK;
  const end = Math.ceil(to / BLOCK) * BLOCK;
  useEffect(() => {
    if (!answer || end <= first) return;
    const mine = ++question.current;
    void session.looking.window(first, end).then((window) => {
      if (mine === question.current) setFinds(new Map(window.map((find, index) => [first + index, find])));
    });
  }, [session, answer, first, end]);
  return finds;
}
