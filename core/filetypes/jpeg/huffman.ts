/** Codes up to this many bits are found in one look-up. */
const QUICK_BITS = 10;

/** A Huffman table of ITU-T T.81 annex C, made ready for decoding (annex F.2.2.3). */
export interface HuffmanTable {
  /** By the next QUICK_BITS bits: code length << 8 | value, or 0 when the code is longer. */
  readonly quick: Uint16Array;
  /** Largest code of each length 1..16, or -1: F.2.2.3 MAXCODE. */
  readonly maxCode: Int32Array;
  /** Index of a length's first value, less its first code: VALPTR - MINCODE. */
  readonly offset: Int32Array;
  readonly values: Uint8Array;
}

/** @returns null where counts and values cannot be a prefix code (more codes than a length can hold) */
export function buildHuffmanTable(counts: Uint8Array, values: Uint8Array): HuffmanTable | null {
  const quick = new Uint16Array(1 << QUICK_BITS);
  const maxCode = new Int32Array(17).fill(-1);
  const offset = new Int32Array(17);
  let code = 0;
  let index = 0;
  for (let length = 1; length <= 16; length++) {
    const count = counts[length - 1];
    if (code + count > 1 << length || index + count > values.length) return null;
    offset[length] = index - code;
    for (let n = 0; n < count; n++, code++, index++) {
      if (length <= QUICK_BITS) {
        const first = code << (QUICK_BITS - length);
        quick.fill((length << 8) | values[index], first, first + (1 << (QUICK_BITS - length)));
      }
    }
    if (count > 0) maxCode[length] = code - 1;
    code <<= 1;
  }
  return { quick, maxCode, offset, values };
}

/**
 * The bits of one entropy-coded segment (T.81 §B.1.1.5), stuffed zero bytes taken out already.
 * Reading beyond the end gives ones and is counted, so that a segment that ended early is noticed.
 */
export class BitReader {
  bytes: Uint8Array = new Uint8Array(0);
  at = 0;
  end = 0;
  #held = 0;
  #bits = 0;
  /** Padding bits that were made up. */
  padded = 0;
  /** Largest size category an AC coefficient can have: 10 for 8-bit samples, 14 for 12-bit ones (table F.2). */
  maxAcBits = 10;

  /** Begins at byte `at` with no bits held. */
  begin(bytes: Uint8Array, at: number, end: number): void {
    this.bytes = bytes;
    this.at = at;
    this.end = end;
    this.#held = 0;
    this.#bits = 0;
    this.padded = 0;
  }

  /** Goes on in a new buffer that holds the same bytes from `at` on, and more. */
  move(bytes: Uint8Array, at: number, end: number): void {
    this.bytes = bytes;
    this.at = at;
    this.end = end;
  }

  /** Whole bytes that were not used up, those held back included. */
  get unusedBytes(): number {
    return this.end - this.at + ((this.#bits - this.padded) >> 3);
  }

  /**
   * Is nothing left but the bits that fill up the last byte (F.1.2.3)? Encoders that add a whole byte of them where none
   * was needed exist, and are understood (common practice, no source).
   */
  get onlyFillLeft(): boolean {
    const { unusedBytes } = this;
    if (unusedBytes !== 1) return unusedBytes === 0;
    const ones = this.#bits >= 32 ? -1 : (1 << this.#bits) - 1;
    return (this.#held & ones) === ones && this.bytes.subarray(this.at, this.end).every((byte) => byte === 0xff);
  }

  /** True when more bits were asked for than there were. */
  get overrun(): boolean {
    return this.padded > this.#bits;
  }

  #fill(): void {
    while (this.#bits <= 24) {
      if (this.at < this.end) this.#held = (this.#held << 8) | this.bytes[this.at++];
      else {
        this.#held = (this.#held << 8) | 0xff;
        this.padded += 8;
      }
      this.#bits += 8;
    }
  }

  /** The next value of a Huffman table, or -1 for bits that are no code of it. */
  decode(table: HuffmanTable): number {
    if (this.#bits < 16) this.#fill();
    const entry = table.quick[(this.#held >>> (this.#bits - QUICK_BITS)) & ((1 << QUICK_BITS) - 1)];
    if (entry !== 0) {
      this.#bits -= entry >> 8;
      return entry & 0xff;
    }
    for (let length = QUICK_BITS + 1; length <= 16; length++) {
      const code = (this.#held >>> (this.#bits - length)) & ((1 << length) - 1);
      if (code <= table.maxCode[length]) {
        this.#bits -= length;
        return table.values[table.offset[length] + code];
      }
    }
    return -1;
  }

  /** The next `count` (0 to 16) bits as an unsigned number. */
  take(count: number): number {
    if (this.#bits < count) this.#fill();
    this.#bits -= count;
    return (this.#held >>> this.#bits) & ((1 << count) - 1);
  }

  /**
   * Walks the AC coefficients of one sequential block (F.2.2.2): the hot loop, so it holds its own bits, and takes one or
   * two coefficients a step.
   * @returns false where they cannot be: no code of the table, a run over the last coefficient, too large a value
   */
  skipAc(table: HuffmanTable, steps: Int32Array): boolean {
    let held = this.#held;
    let bits = this.#bits;
    for (let k = 1; k < 64; ) {
      while (bits <= ENOUGH_BITS - 1) {
        if (this.at < this.end) held = (held << 8) | this.bytes[this.at++];
        else {
          held = (held << 8) | 0xff;
          this.padded += 8;
        }
        bits += 8;
      }
      const step = steps[(held >>> (bits - STEP_BITS)) & (STEPS - 1)];
      if (step === 0) {
        this.#held = held;
        this.#bits = bits;
        const next = this.#rareAc(table, k);
        if (next < 0) return false;
        k = next;
        held = this.#held;
        bits = this.#bits;
        continue;
      }
      const advance = (step >> 5) & 31;
      if (advance === 0) {
        bits -= step & 31;
        break;
      }
      k += advance;
      const second = step >>> 20;
      if (second === 0 || k >= 64) {
        bits -= step & 31;
        if (k > 64) return false;
        continue;
      }
      bits -= (step >> 10) & 31;
      if (second === END_OF_BLOCK) break;
      k += (step >> 15) & 31;
      if (k > 64) return false;
    }
    this.#held = held;
    this.#bits = bits;
    return true;
  }

  /** One symbol that the step table does not hold: long codes, ZRL, and what cannot be. @returns the next k, or -1 */
  #rareAc(table: HuffmanTable, k: number): number {
    const value = this.decode(table);
    if (value < 0) return -1;
    const size = value & 15;
    const run = value >> 4;
    if (size === 0) {
      if (run === 0) return 64;
      // EOBn belongs to progressive scans only; ZRL is followed by a coefficient.
      return run === 15 && k + 16 < 64 ? k + 16 : -1;
    }
    if (k + run + 1 > 64 || size > this.maxAcBits) return -1;
    this.take(size);
    return k + run + 1;
  }
}

/** Bits looked at in one step of a sequential block. */
const STEP_BITS = 12;
const STEPS = 1 << STEP_BITS;
/** Bits that are held before each step: no step takes more. */
const ENOUGH_BITS = 25;
/** What the second symbol of a step is; 0: there is none. */
const COEFFICIENT = 1;
const END_OF_BLOCK = 2;

/**
 * For each value of the next STEP_BITS bits: what one or two AC symbols of a sequential block take and do.
 * Bits 0-4: bits of the first with its value; 5-9: coefficients it goes on by (0: end of block); 10-14: bits of both;
 * 15-19: coefficients the second goes on by; 20-21: what the second is. 0: not in here, decode it the long way.
 */
export function acSteps(table: HuffmanTable, maxAcBits: number): Int32Array {
  const codeBits = new Uint8Array(STEPS);
  const first = new Int32Array(STEPS);
  let code = 0;
  for (let length = 1; length <= STEP_BITS; length++, code <<= 1) {
    if (table.maxCode[length] < 0) continue;
    for (; code <= table.maxCode[length]; code++) {
      const value = table.values[table.offset[length] + code];
      const size = value & 15;
      const run = value >> 4;
      if ((size === 0 && run !== 0) || size > maxAcBits || length + size > ENOUGH_BITS) continue;
      const from = code << (STEP_BITS - length);
      const to = from + (1 << (STEP_BITS - length));
      codeBits.fill(length, from, to);
      first.fill((length + size) | ((size === 0 ? 0 : run + 1) << 5), from, to);
    }
  }
  return first.map((step, index) => {
    const taken = step & 31;
    const endsHere = step >> 5 === 0;
    if (step === 0 || endsHere || taken >= STEP_BITS) return step;
    const rest = (index << taken) & (STEPS - 1);
    const next = first[rest];
    const both = taken + (next & 31);
    if (next === 0 || codeBits[rest] > STEP_BITS - taken || both > ENOUGH_BITS) return step;
    return step | (both << 10) | ((next >> 5) << 15) | ((next >> 5 === 0 ? END_OF_BLOCK : COEFFICIENT) << 20);
  });
}
