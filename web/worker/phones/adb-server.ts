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
        let over = false;
        const readable = new ReadableStream<Uint8Array>({
          start(controller) {
            pipe.listen(
              (piece) => {
                if (!over) controller.enqueue(piece);
              },
              () => {
                end();
                if (over) return;
                over = true;
                try {
                  controller.close();
                } catch {
                  // Whoever read it has let go of it in the same moment.
                }
              },
            );
          },
          cancel() {
            over = true;
            pipe.close();
          },
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
