import { latin, layout, u8, u32be } from "../../bytes/layout.ts";

/** ISO/IEC 15948 §5.2: the eight bytes every PNG begins with. */
export const SIGNATURE = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);

/** §5.3, a chunk: length of its data, type, data, then a CRC over type and data. Big-endian. */
export const ChunkHeader = layout(8, { length: u32be(0), type: latin(4, 4) });
export const CRC_BYTES = 4;

/** §11.2.2 IHDR. */
export const ImageHeader = layout(13, {
  width: u32be(0),
  height: u32be(4),
  bitDepth: u8(8),
  colourType: u8(9),
  compression: u8(10),
  filter: u8(11),
  interlace: u8(12),
});
