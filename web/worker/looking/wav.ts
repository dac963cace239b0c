const HEAD = 44;

/** What samples are: how many a second, how many beside each other, bits of each. */
export interface Sound {
  readonly rate: number;
  readonly channels: number;
  readonly bits: number;
}

/** Samples as a WAVE file ("Multimedia Programming Interface and Data Specifications 1.0", RIFF WAVE): whole numbers, the lowest byte first. */
export function wavOf(samples: Uint8Array<ArrayBuffer>, { rate, channels, bits }: Sound): Blob {
  const head = new DataView(new ArrayBuffer(HEAD));
  const word = (at: number, letters: string) => {
    for (let index = 0; index < letters.length; index++) head.setUint8(at + index, letters.charCodeAt(index));
  };
  const block = (channels * bits) / 8;
  word(0, "RIFF");
  head.setUint32(4, HEAD - 8 + samples.length, true);
  word(8, "WAVEfmt ");
  head.setUint32(16, 16, true);
  head.setUint16(20, 1, true);
  head.setUint16(22, channels, true);
  head.setUint32(24, rate, true);
  head.setUint32(28, rate * block, true);
  head.setUint16(32, block, true);
  head.setUint16(34, bits, true);
  word(36, "data");
  head.setUint32(40, samples.length, true);
  return new Blob([head.buffer, samples], { type: "audio/wav" });
}
