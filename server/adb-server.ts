import { connect } from "node:net";

/** Where this machine's own adb server listens when it runs (AOSP, adb, OVERVIEW.TXT). */
export const ADB_SERVER_PORT = Number(process.env.ANDROID_ADB_SERVER_PORT ?? 5037);
const PATIENCE_MS = 500;

/** Is it there? It is never started from here. */
export function adbServerAnswers(): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = connect(ADB_SERVER_PORT, "127.0.0.1");
    const end = (there: boolean) => {
      socket.destroy();
      resolve(there);
    };
    socket.setTimeout(PATIENCE_MS, () => end(false));
    socket.once("connect", () => end(true));
    socket.once("error", () => end(false));
  });
}
