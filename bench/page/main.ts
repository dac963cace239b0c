import { measurePeople } from "./people.ts";
import { measureTables } from "./tables.ts";
import { measureWall } from "./wall.ts";

const post = (body: unknown) => void fetch("/result", { method: "POST", body: JSON.stringify(body) });

/** Has a worker measure, and posts what came out: a scan of the image that the runner gives, or a pull from a phone. */
function measure(worker: Worker, given: unknown): void {
  worker.onmessage = ({ data }) => post(data);
  worker.onerror = ({ message }) => post({ failed: message });
  worker.postMessage(given);
}

/** What is measured in the page itself, by the word in its address. */
const MEASURES: Readonly<Record<string, (file: File) => Promise<unknown>>> = {
  wall: measureWall,
  tables: measureTables,
  people: measurePeople,
};

const input = document.querySelector<HTMLInputElement>("#image");
input?.addEventListener("change", () => {
  const [file] = input.files ?? [];
  const own = [...Object.entries(MEASURES)].find(([name]) => location.search.includes(name))?.[1];
  if (own) {
    void own(file).then(post, (cause: unknown) => post({ failed: String(cause) }));
    return;
  }
  measure(new Worker(new URL("./worker.ts", import.meta.url), { type: "module" }), { file, reads: !location.search.includes("memory") });
});

const tunnel = new URLSearchParams(location.search).get("tunnel");
if (tunnel)
  measure(new Worker(new URL("./pull-worker.ts", import.meta.url), { type: "module" }), location.origin.replace("http", "ws") + tunnel);
