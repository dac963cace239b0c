import {
  ADB_DEFAULT_AUTHENTICATORS,
  Adb,
  type AdbAuthenticator,
  type AdbCredentialStore,
  type AdbDaemonConnection,
  AdbDaemonTransport,
  type AdbPacketData,
  AdbPublicKeyAuthenticator,
} from "@yume-chan/adb";
import { Consumable, ReadableStream } from "@yume-chan/stream-extra";
import type { BytePipe } from "../byte-pipe.ts";
import { encodePacket, PacketReader } from "./packets.ts";

/** A pipe's bytes as ADB packets, both ways. What is no packet ends the connection. */
export function packetsOver(pipe: BytePipe): AdbDaemonConnection {
  const reader = new PacketReader();
  let over = false;
  const readable = new ReadableStream<AdbPacketData>({
    start(controller) {
      const end = (because: Error | null) => {
        if (over) return;
        over = true;
        if (because) controller.error(because);
        else controller.close();
      };
      pipe.listen((piece) => {
        try {
          if (!over) for (const packet of reader.take(piece)) controller.enqueue(packet as AdbPacketData);
        } catch (cause) {
          pipe.close();
          end(cause instanceof Error ? cause : new Error(String(cause)));
        }
      }, end);
    },
    cancel() {
      over = true;
      pipe.close();
    },
  });
  const writable = new Consumable.WritableStream<Parameters<typeof asBytes>[0]>({
    // What is said to a phone that is gone is lost: whoever waits for its answer hears of it (whileConnected).
    write(packet) {
      if (!over) pipe.send(asBytes(packet));
    },
    close: () => pipe.close(),
  });
  return { readable, writable };
}

const asBytes = ({ command, arg0, arg1, payload }: AdbPacketData) => encodePacket(command, arg0, arg1, payload);

/**
 * Introduces this computer to a phone's debugging daemon: signs with every kept key, then shows its own public key and waits
 * for the person. `waits` is called when the question goes to the phone's screen. There is no time limit: closing the
 * connection ends the waiting.
 * @throws Error when the connection ends before the phone lets this computer in
 */
export async function introduce(
  serial: string,
  connection: AdbDaemonConnection,
  keys: AdbCredentialStore,
  waits: () => void,
): Promise<Adb> {
  const asking: AdbAuthenticator = async function* (store, nextRequest) {
    await nextRequest();
    waits();
    yield* AdbPublicKeyAuthenticator(store, nextRequest);
  };
  const authenticators = ADB_DEFAULT_AUTHENTICATORS.map((one) => (one === AdbPublicKeyAuthenticator ? asking : one));
  return new Adb(await AdbDaemonTransport.authenticate({ serial, connection, credentialStore: keys, authenticators }));
}
