import { introduce, packetsOver } from "../../core/phones/adb/connection.ts";
import { keyRing, makeKey } from "../../core/phones/adb/keys.ts";
import { listShared, sharedFileSource } from "../../core/phones/adb/shared-storage.ts";
import type { BytePipe } from "../../core/phones/byte-pipe.ts";

const WINDOW = 4 * 1024 * 1024;

/** A WebSocket as a pipe, as the application opens one. */
async function tunnel(address: string): Promise<BytePipe> {
  const socket = new WebSocket(address);
  socket.binaryType = "arraybuffer";
  await new Promise((open, fail) => {
    socket.onopen = open;
    socket.onerror = fail;
  });
  return {
    listen(heard, ended) {
      socket.onmessage = ({ data }: MessageEvent<ArrayBuffer>) => heard(new Uint8Array(data));
      socket.onclose = () => ended(null);
    },
    send: (bytes) => socket.send(bytes as Uint8Array<ArrayBuffer>),
    close: () => socket.close(),
  };
}

/** Pulls the phone's largest file through the tunnel, window by window, and keeps none of it. */
self.onmessage = async ({ data: address }: MessageEvent<string>) => {
  const adb = await introduce("phone", packetsOver(await tunnel(address)), keyRing([await makeKey("bench")]), () => {});
  const [file] = (await listShared(adb, () => {})).files;
  const source = sharedFileSource(adb, file);
  const started = performance.now();
  for (let at = 0; at < file.size; at += WINDOW) await source.read(at, Math.min(WINDOW, file.size - at));
  self.postMessage({ seconds: (performance.now() - started) / 1000, bytes: file.size });
};
