/** Takes the image that the runner gives, has a worker measure on it, and posts what came out. */
const input = document.querySelector<HTMLInputElement>("#image");
input?.addEventListener("change", () => {
  const [file] = input.files ?? [];
  const worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = ({ data }) => void fetch("/result", { method: "POST", body: JSON.stringify(data) });
  worker.onerror = ({ message }) => void fetch("/result", { method: "POST", body: JSON.stringify({ failed: message }) });
  worker.postMessage(file);
});
