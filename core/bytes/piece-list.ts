/** Bytes that came in pieces and wait to be taken. No byte is copied more than once, however small the pieces are. */
export class PieceList {
  #pieces: Uint8Array[] = [];
  /** The first piece that still holds bytes, and how many of it are gone. */
  #first = 0;
  #gone = 0;
  length = 0;

  add(piece: Uint8Array): void {
    if (piece.length === 0) return;
    this.#pieces.push(piece);
    this.length += piece.length;
  }

  /**
   * The next `length` bytes; a piece that holds them all is not copied.
   * @throws RangeError for more than there are: a mistake of the caller
   */
  take(length: number): Uint8Array {
    if (length > this.length) throw new RangeError(`${length} bytes of ${this.length} that are there`);
    if (length === 0) return new Uint8Array(0);
    const head = this.#pieces[this.#first];
    if (head.length - this.#gone >= length) return this.#cut(length);
    const whole = new Uint8Array(length);
    for (let filled = 0; filled < length; ) {
      const part = this.#cut(Math.min(length - filled, this.#pieces[this.#first].length - this.#gone));
      whole.set(part, filled);
      filled += part.length;
    }
    return whole;
  }

  /** Bytes of the first piece. */
  #cut(length: number): Uint8Array {
    const piece = this.#pieces[this.#first];
    const part = piece.subarray(this.#gone, this.#gone + length);
    this.#gone += length;
    this.length -= length;
    if (this.#gone === piece.length) {
      this.#gone = 0;
      this.#first++;
      // Taken pieces are let go of together: shifting them out one by one would move all the others each time.
      if (this.#first * 2 > this.#pieces.length) {
        this.#pieces = this.#pieces.slice(this.#first);
        this.#first = 0;
      }
    }
    return part;
  }
}
