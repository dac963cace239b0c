/** Bits of a digit: so many places to write to at a time as a processor keeps at hand. */
const BITS = 11;
const DIGITS = 1 << BITS;
const DIGIT = DIGITS - 1;
const SIGN = 0x8000_0000;
/** Fewer are compared: counting the digits of few costs more. */
const FEW = 1000;

/**
 * Sorts rows by a number of each, by counting digits from the last to the first (Knuth, The Art of Computer Programming 3, 5.2.5): a quarter of what
 * comparing a million of them takes. What is alike stands as it came, whichever way is sorted.
 * @param keys by row; never NaN
 */
export function sortByNumbers(rows: Uint32Array, keys: Float64Array, descending = false): void {
  if (rows.length < FEW) {
    const turn = descending ? -1 : 1;
    // Infinities cannot be subtracted.
    rows.sort((a, b) => (keys[a] === keys[b] ? 0 : keys[a] < keys[b] ? -turn : turn));
    return;
  }
  let from: Keyed = { rows: rows.slice(), halves: halvesOf(rows, keys, descending) };
  let to: Keyed = { rows: new Uint32Array(rows.length), halves: from.halves.map(() => new Uint32Array(rows.length)) };
  for (let half = 0; half < 2; half++)
    for (let shift = 0; shift < 32; shift += BITS) {
      const starts = startsOf(from.halves[half], shift);
      if (!starts) continue;
      moved(from, to, half, shift, starts);
      [from, to] = [to, from];
    }
  rows.set(from.rows);
}

/** Rows, and the low and high half of each one's key beside it. */
interface Keyed {
  readonly rows: Uint32Array;
  readonly halves: readonly Uint32Array[];
}

/** Keys as whole numbers that stand as the keys do (IEEE 754, 3.4: sign, exponent, fraction): negative ones turned round, the others behind them. */
function halvesOf(rows: Uint32Array, keys: Float64Array, descending: boolean): Keyed["halves"] {
  const halves = [new Uint32Array(rows.length), new Uint32Array(rows.length)];
  const key = new Float64Array(1);
  const parts = new Uint32Array(key.buffer);
  // Which half a machine writes first.
  key[0] = 1;
  const high = parts[1] !== 0 ? 1 : 0;
  const turned = descending ? ~0 : 0;
  for (let at = 0; at < rows.length; at++) {
    // Adding nothing makes a 0 of -0: they are one number.
    key[0] = keys[rows[at]] + 0;
    const isNegative = parts[high] >= SIGN;
    halves[0][at] = parts[1 - high] ^ (isNegative ? ~turned : turned);
    halves[1][at] = parts[high] ^ (isNegative ? ~turned : turned ^ SIGN);
  }
  return halves;
}

/** Where the rows of each digit begin; null where all have the same. */
function startsOf(half: Uint32Array, shift: number): Uint32Array | null {
  const starts = new Uint32Array(DIGITS);
  for (let at = 0; at < half.length; at++) starts[(half[at] >>> shift) & DIGIT]++;
  if (starts[(half[0] >>> shift) & DIGIT] === half.length) return null;
  let start = 0;
  for (let digit = 0; digit < DIGITS; digit++) [starts[digit], start] = [start, start + starts[digit]];
  return starts;
}

function moved(from: Keyed, to: Keyed, half: number, shift: number, starts: Uint32Array): void {
  const digits = from.halves[half];
  const [low, high] = from.halves;
  const [toLow, toHigh] = to.halves;
  for (let at = 0; at < digits.length; at++) {
    const place = starts[(digits[at] >>> shift) & DIGIT]++;
    to.rows[place] = from.rows[at];
    toLow[place] = low[at];
    toHigh[place] = high[at];
  }
}
