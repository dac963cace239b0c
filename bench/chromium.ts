import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Readable, Writable } from "node:stream";

const ARGUMENTS = [
  "--headless",
  "--window-size=1280,800",
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
  "--remote-debugging-pipe",
];

/**
 * A Chromium with a real profile, spoken to over its debugging pipe (Chrome DevTools Protocol, messages end with a zero
 * byte): no test runner records what it does, so it runs as fast as a technician's.
 */
export class PlainChromium {
  readonly #profile = mkdtempSync(join(tmpdir(), "jubar-bench-"));
  readonly #process: ChildProcess;
  readonly #waiting = new Map<number, (answer: { result?: Record<string, unknown>; error?: { message: string } }) => void>();
  #last = 0;
  #session: string | undefined;
  /** Workers of the page that were asked for. */
  readonly #workers = new Set<string>();

  constructor() {
    this.#process = spawn("/usr/bin/chromium", [...ARGUMENTS, `--user-data-dir=${this.#profile}`], {
      stdio: ["ignore", "ignore", "ignore", "pipe", "pipe"],
    });
    let text = "";
    (this.#process.stdio[4] as Readable).setEncoding("utf8").on("data", (piece: string) => {
      const messages = (text + piece).split("\0");
      text = messages.pop() ?? "";
      for (const message of messages.map((one) => JSON.parse(one))) {
        this.#waiting.get(message.id)?.(message);
        if (message.method === "Target.attachedToTarget") this.#workers.add(message.params.sessionId);
      }
    });
  }

  async #call(method: string, params: object = {}, sessionId = this.#session): Promise<Record<string, unknown>> {
    const id = ++this.#last;
    const answered = new Promise<{ result?: Record<string, unknown>; error?: { message: string } }>((resolve) => {
      this.#waiting.set(id, resolve);
    });
    (this.#process.stdio[3] as Writable).write(`${JSON.stringify({ id, method, params, sessionId })}\0`);
    const { result, error } = await answered;
    if (error) throw new Error(`${method}: ${error.message}`);
    return result ?? {};
  }

  /** Opens a page. */
  async open(url: string): Promise<void> {
    const { targetId } = await this.#call("Target.createTarget", { url });
    this.#session = String((await this.#call("Target.attachToTarget", { targetId, flatten: true })).sessionId);
    await new Promise((loaded) => setTimeout(loaded, 1500));
  }

  /** What an expression of the page comes to, once it is settled. @throws what it throws */
  async evaluate(expression: string): Promise<unknown> {
    const answer = (await this.#call("Runtime.evaluate", { expression, awaitPromise: true, returnByValue: true })) as {
      result: { value?: unknown };
      exceptionDetails?: { exception?: { description?: string } };
    };
    if (answer.exceptionDetails) throw new Error(answer.exceptionDetails.exception?.description ?? "the page threw");
    return answer.result.value;
  }

  /** Gives the page's file field a file. */
  async giveFile(path: string, field = "#image"): Promise<void> {
    const { result } = (await this.#call("Runtime.evaluate", { expression: `document.querySelector(${JSON.stringify(field)})` })) as {
      result: { objectId: string };
    };
    await this.#call("DOM.setFileInputFiles", { files: [path], objectId: result.objectId });
  }

  /** Largest memory that one renderer ever held, in MiB (VmHWM of proc(5)). */
  peakRendererMiB(): number {
    const peaks = this.#ofProcesses((pid, command) =>
      command.includes("--type=renderer")
        ? Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1] ?? 0) / 1024
        : 0,
    );
    return Math.max(...peaks);
  }

  /** Memory that its renderers hold now, in MiB (VmRSS of proc(5)), after the garbage of page and workers was collected. */
  async rendererMiB(): Promise<number> {
    // Each worker has a heap of its own.
    await this.#call("Target.setAutoAttach", { autoAttach: true, waitForDebuggerOnStart: false, flatten: true });
    for (const session of [this.#session, ...this.#workers]) await this.#call("HeapProfiler.collectGarbage", {}, session);
    await new Promise((freed) => setTimeout(freed, 1000));
    const held = this.#ofProcesses((pid, command) =>
      command.includes("--type=renderer")
        ? Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1] ?? 0) / 1024
        : 0,
    );
    return Math.max(...held);
  }

  /** Bytes that all of its processes had from disks until now, what the system held of them in memory among them (rchar of proc(5), sockets too). */
  bytesRead(): number {
    return this.#ofProcesses((pid) => Number(/rchar: (\d+)/.exec(readFileSync(`/proc/${pid}/io`, "utf8"))?.[1] ?? 0)).reduce(
      (sum, bytes) => sum + bytes,
      0,
    );
  }

  #ofProcesses(ask: (pid: string, command: string) => number): number[] {
    return readdirSync("/proc")
      .filter((name) => /^\d+$/.test(name))
      .map((pid) => {
        try {
          const command = readFileSync(`/proc/${pid}/cmdline`, "utf8");
          return command.includes(this.#profile) ? ask(pid, command) : 0;
        } catch {
          return 0; // ended meanwhile
        }
      });
  }

  async close(): Promise<void> {
    const gone = new Promise((resolve) => this.#process.once("exit", resolve));
    this.#session = undefined;
    await this.#call("Browser.close");
    await gone;
    rmSync(this.#profile, { recursive: true, force: true, maxRetries: 10, retryDelay: 200 });
  }
}
