import { layout, u8, u16be } from "../../bytes/layout.ts";

/** Markers of ITU-T T.81 table B.1: the byte after 0xFF. */
export const Marker = {
  SOF0: 0xc0,
  SOF1: 0xc1,
  SOF2: 0xc2,
  DHT: 0xc4,
  JPG: 0xc8,
  DAC: 0xcc,
  SOF15: 0xcf,
  RST0: 0xd0,
  RST7: 0xd7,
  SOI: 0xd8,
  EOI: 0xd9,
  SOS: 0xda,
  DQT: 0xdb,
  DNL: 0xdc,
  DRI: 0xdd,
  APP0: 0xe0,
  APP1: 0xe1,
  APP15: 0xef,
  COM: 0xfe,
} as const;

/** T.81 §B.1.1.4: a marker segment. `length` counts itself and the parameters, not the marker. Big-endian. */
export const SegmentHeader = layout(4, { prefix: u8(0), marker: u8(1), length: u16be(2) });

/** T.81 §B.2.2, frame header, counted from after the length. */
export const FrameHeader = layout(6, { precision: u8(0), lines: u16be(1), samplesPerLine: u16be(3), components: u8(5) });

/** One component's parameters in the frame header: C, H and V (4 bits each), Tq. */
export const FrameComponent = layout(3, { id: u8(0), sampling: u8(1), quantTable: u8(2) });

/** T.81 §B.2.3, one component's selector in the scan header: Cs, Td and Ta (4 bits each). */
export const ScanComponent = layout(2, { id: u8(0), tables: u8(1) });

/** End of the scan header, after the components: Ss, Se, Ah and Al (4 bits each). */
export const ScanSpectrum = layout(3, { from: u8(0), to: u8(1), approximation: u8(2) });
