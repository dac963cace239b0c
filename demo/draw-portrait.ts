import { encode } from "jpeg-js";

type Colour = readonly [red: number, green: number, blue: number];

/** Pixels of a side: as small as address books keep pictures of people. */
const SIDE = 96;
const EYES = [39, 57] as const;

/** Who is drawn: what is behind them, their coat, their hair. */
const PEOPLE: readonly { readonly behind: Colour; readonly coat: Colour; readonly hair: Colour }[] = [
  { behind: [214, 232, 235], coat: [16, 84, 92], hair: [62, 39, 35] },
  { behind: [250, 229, 184], coat: [129, 43, 70], hair: [196, 158, 92] },
  { behind: [221, 226, 240], coat: [47, 60, 122], hair: [40, 40, 44] },
];
const SKIN: Colour = [232, 190, 160];
const INK: Colour = [32, 36, 44];

const isIn = (x: number, y: number, [left, top]: readonly [number, number], [wide, high]: readonly [number, number]): boolean =>
  ((x - left) / wide) ** 2 + ((y - top) / high) ** 2 <= 1;

function colourAt(x: number, y: number, { behind, coat, hair }: (typeof PEOPLE)[number]): Colour {
  if (EYES.some((eye) => isIn(x, y, [eye, 42], [2.5, 3]))) return INK;
  if (isIn(x, y, [48, 55], [7, 2])) return INK;
  if (isIn(x, y, [48, 44], [20, 23]) && y > 30) return SKIN;
  if (isIn(x, y, [48, 40], [24, 26])) return hair;
  if (isIn(x, y, [48, 98], [38, 32])) return coat;
  return behind;
}

/** A drawn face as a JPEG file: invented people of the practice address book. */
export function portrait(number: number): Uint8Array {
  const data = new Uint8Array(SIDE * SIDE * 4);
  for (let at = 0; at < SIDE * SIDE; at++) {
    const colour = colourAt(at % SIDE, Math.floor(at / SIDE), PEOPLE[number % PEOPLE.length]);
    data.set([...colour, 255], at * 4);
  }
  return new Uint8Array(encode({ data, width: SIDE, height: SIDE }, 80).data);
}
