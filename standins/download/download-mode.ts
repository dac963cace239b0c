import { createHash } from "node:crypto";
import { createServer, type Socket } from "node:net";
import { UnusableError } from "../../core/bytes/source.ts";
import { type DownloadAnswer, DownloadRequest, encodeMessage, hearMessage, SYSTEM_PARTITIONS } from "../../core/phones/download-mode.ts";
import { PieceQueue } from "../../core/phones/piece-queue.ts";
import { holdToCable, socketPipe } from "../cable.ts";
import { type Listening, listening } from "../listening.ts";
import type { PracticePhone } from "../phone/practice-phone.ts";

const MAX_PARTITION = 64 * 1024 * 1024;
const LEAST_BATTERY = 20;

const refused = (because: string): DownloadAnswer => ({ answer: "refused", because });

/** Refusal is the default: only a system partition, of exactly this build, on a charged battery, is taken. */
function refusalOf(request: Extract<DownloadRequest, { say: "repair" }>, phone: PracticePhone): string | null {
  if (!SYSTEM_PARTITIONS.some((name) => name === request.partition)) return `${request.partition} is never written here.`;
  if (request.build !== phone.card.build) return `build code ${request.build} is not ${phone.card.build}.`;
  if (phone.battery < LEAST_BATTERY) return `the battery is at ${phone.battery} %.`;
  if (request.bytes > MAX_PARTITION) return "the image is too large.";
  return null;
}

/** One computer's conversation with a phone in download mode. */
async function converse(socket: Socket, phone: PracticePhone): Promise<void> {
  const arriving = new PieceQueue(socketPipe(socket));
  const answer = (message: DownloadAnswer) => void socket.write(encodeMessage(message));
  for (;;) {
    const request = await hearMessage(arriving, DownloadRequest);
    if (request.say === "identify")
      answer({ answer: "identity", model: phone.card.card.model, build: phone.card.build, battery: phone.battery });
    else if (request.say === "restart") phone.restart();
    else {
      const because = refusalOf(request, phone);
      if (because) {
        answer(refused(because));
        continue;
      }
      answer({ answer: "send" });
      const hash = createHash("sha256")
        .update(await arriving.exactly(request.bytes))
        .digest("hex");
      if (hash === request.sha256) phone.noteRepaired(request.partition);
      answer(hash === request.sha256 ? { answer: "done" } : refused("what arrived is not what was promised."));
    }
  }
}

/** Serves a practice phone's download mode on a loopback port. @returns the server and its port */
export const serveDownloadMode = (phone: PracticePhone, port = 0): Promise<Listening> =>
  listening(
    createServer((socket) => {
      if (holdToCable(socket, phone, "download", () => socket.end()))
        converse(socket.setNoDelay(), phone).catch((cause: unknown) => {
          socket.destroy();
          // A computer that hangs up, or does not keep to the protocol, ends its own connection only.
          if (!(cause instanceof UnusableError)) throw cause;
        });
    }),
    port,
  );
