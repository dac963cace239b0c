/** Bytes that make no sense, or a place that was gone around: noted, and the work goes on. */
export interface Trouble {
  /** In plain words. */
  readonly what: string;
  /** Absolute byte offset and length on the source. */
  readonly at: number;
  readonly length: number;
}
