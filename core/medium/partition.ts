/** A stretch of a medium that its partition table tells of. Bytes. */
export interface Partition {
  readonly start: number;
  readonly length: number;
  /** 0 where there is no partition table, and in GUID tables. */
  readonly type: number;
  /** What a GUID table calls it. */
  readonly name: string | null;
}
