/** Bytes both ways, in order, until one side ends it: a tunnel through the own server, a TCP socket. */
export interface BytePipe {
  /** Called once, before anything arrives. `ended` hears why, or null where the other side simply hung up. */
  listen(heard: (piece: Uint8Array) => void, ended: (because: Error | null) => void): void;
  send(bytes: Uint8Array): void;
  close(): void;
}
