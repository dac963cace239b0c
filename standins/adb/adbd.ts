import { randomBytes } from "node:crypto";
import { createServer, type Socket } from "node:net";
import { Command, encodePacket, MAX_PAYLOAD, type Packet, PacketReader, PeerError, VERSION } from "../../core/phones/adb/packets.ts";
import { holdToCable } from "../cable.ts";
import { type Listening, listening } from "../listening.ts";
import type { PracticePhone } from "../phone/practice-phone.ts";
import { type ComputerKey, isSignedBy, parseComputerKey } from "./keys.ts";
import { ServiceStream } from "./service-stream.ts";
import { runService } from "./services.ts";

/** Kinds of AUTH packets (protocol.txt, AUTH). */
const Auth = { token: 1, signature: 2, publicKey: 3 } as const;
const TOKEN_BYTES = 20;
/** What this daemon can do beyond the first version of the protocol (AOSP, transport.cpp): just what services.ts and sync.ts serve. */
const FEATURES = ["shell_v2", "stat_v2", "ls_v2"] as const;
/** Services one connection may hold open. */
const MAX_STREAMS = 64;

/** A mistake of the stand-in's own, told where whoever started it looks: the other phones go on. */
const complain = (cause: unknown): void => void process.stderr.write(`practice phone: ${cause instanceof Error ? cause.stack : cause}\n`);

/** One computer's connection to a practice phone. */
class Connection {
  readonly #socket: Socket;
  readonly #phone: PracticePhone;
  readonly #streams = new Map<number, ServiceStream>();
  #token = randomBytes(TOKEN_BYTES);
  #allowed = false;
  #maxPayload = MAX_PAYLOAD;
  #lastStream = 0;

  constructor(socket: Socket, phone: PracticePhone) {
    this.#socket = socket;
    this.#phone = phone;
    const reader = new PacketReader();
    socket.on("data", (piece) => {
      try {
        for (const packet of reader.take(piece)) this.#take(packet);
      } catch (cause) {
        socket.destroy();
        // Whatever a computer sent: it ends its own connection only.
        if (!(cause instanceof PeerError)) complain(cause);
      }
    });
    holdToCable(socket, phone, "adb", () => socket.destroy());
    socket.on("close", () => {
      for (const stream of this.#streams.values()) stream.ended();
    });
  }

  #send(command: number, arg0: number, arg1: number, payload?: Uint8Array): void {
    if (this.#socket.destroyed) return;
    this.#socket.write(encodePacket(command, arg0, arg1, payload));
    if (command === Command.WRTE && payload) this.#phone.carried(payload.length);
  }

  #take({ command, arg0, arg1, payload }: Packet): void {
    switch (command) {
      case Command.CNXN:
        this.#maxPayload = Math.max(4096, Math.min(arg1, MAX_PAYLOAD));
        if (this.#phone.asksComputers) this.#askToSign();
        else this.#letIn();
        return;
      case Command.AUTH:
        if (arg0 === Auth.signature) this.#checkSignature(payload);
        else if (arg0 === Auth.publicKey) void this.#askPerson(parseComputerKey(payload));
        return;
      case Command.OPEN:
        if (this.#allowed) this.#open(arg0, Buffer.from(payload).toString("utf8").replace(/\0$/, ""));
        return;
      case Command.WRTE:
        this.#streams.get(arg1)?.took(payload);
        return;
      case Command.OKAY:
        this.#streams.get(arg1)?.confirmed();
        return;
      case Command.CLSE:
        // Answered, as every daemon does: the computer's end is free then.
        if (this.#streams.get(arg1)?.ended()) this.#send(Command.CLSE, arg1, arg0);
        this.#streams.delete(arg1);
    }
  }

  #askToSign(): void {
    this.#token = randomBytes(TOKEN_BYTES);
    this.#send(Command.AUTH, Auth.token, 0, this.#token);
  }

  #checkSignature(signature: Uint8Array): void {
    if (this.#phone.allowed.some((key) => isSignedBy(key, this.#token, signature))) this.#letIn();
    else this.#askToSign();
  }

  /** The question on the phone's screen; a locked or dark screen hides it. Never fails. */
  async #askPerson(key: ComputerKey): Promise<void> {
    if (await this.#phone.admits(key)) this.#letIn();
  }

  #letIn(): void {
    this.#allowed = true;
    const { card, device } = this.#phone.card;
    const state = this.#phone.mode === "recovery" ? "recovery" : "device";
    const banner = `${state}::ro.product.name=${device};ro.product.model=${card.model};ro.product.device=${device};features=${FEATURES.join(",")}`;
    this.#send(Command.CNXN, VERSION, MAX_PAYLOAD, Buffer.from(banner));
  }

  #open(theirs: number, service: string): void {
    if (this.#streams.size >= MAX_STREAMS) {
      this.#send(Command.CLSE, 0, theirs);
      return;
    }
    const ours = ++this.#lastStream;
    const stream = new ServiceStream(
      (bytes) => this.#send(Command.WRTE, ours, theirs, bytes),
      () => this.#send(Command.OKAY, ours, theirs),
      () => {
        this.#send(Command.CLSE, ours, theirs);
        this.#streams.delete(ours);
      },
      this.#maxPayload,
    );
    const running = runService(service, stream, this.#phone);
    if (!running) {
      this.#send(Command.CLSE, 0, theirs);
      return;
    }
    this.#streams.set(ours, stream);
    this.#send(Command.OKAY, ours, theirs);
    void running()
      .then(() => stream.flushed())
      .catch(complain)
      .finally(() => stream.close());
  }
}

/** Serves a practice phone's debugging daemon on a loopback port. @returns the server and its port */
export const serveAdb = (phone: PracticePhone, port = 0): Promise<Listening> =>
  listening(
    createServer((socket) => new Connection(socket.setNoDelay(), phone)),
    port,
  );
