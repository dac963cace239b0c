import { type Adb, AdbServerClient } from "@yume-chan/adb";
import { MaybeConsumable, ReadableStream } from "@yume-chan/stream-extra";
import { openTunnel } from "./tunnels.ts";

/** A phone that this machine's own adb server holds. */
export interface ServedPhone {
  readonly serial: string;
  readonly state: "unauthorized" | "offline" | "device" | string;
  readonly model: string | null;
  open(): Promise<Adb>;
}

/** The machine's own adb server, spoken to through the tunnel (AOSP, adb, SERVICES.TXT: host services). */
export class AdbServer {
  readonly #client: AdbServerClient;

  constructor(token: string) {
    this.#client = new AdbServerClient({
      async connect() {
        const pipe = await openTunnel("adb-server", token);
        let end: () => void = () => {};
        const closed = new Promise<undefined>((resolve) => {
          end = () => resolve(undefined);
        });
        const readable = new ReadableStream<Uint8Array>({
          start(controller) {
            let over = false;
            pipe.listen(
              (piece) => {
                if (!over) controller.enqueue(piece);
              },
              () => {
                if (!over) controller.close();
                over = true;
                end();
              },
            );
          },
          cancel: () => pipe.close(),
        });
        const writable = new MaybeConsumable.WritableStream<Uint8Array>({ write: (bytes) => pipe.send(bytes) });
        return { readable, writable, close: () => pipe.close(), closed };
      },
      addReverseTunnel() {
        throw new Error("nothing of a phone is let in here");
      },
      removeReverseTunnel() {},
      clearReverseTunnels() {},
    });
  }

  async phones(): Promise<ServedPhone[]> {
    const devices = await this.#client.getDevices(["device", "unauthorized", "offline"]);
    return devices.map(({ serial, state, model, transportId }) => ({
      serial,
      state,
      model: model ?? null,
      open: () => this.#client.createAdb({ transportId }),
    }));
  }
}
