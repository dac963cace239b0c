import { expose } from "comlink";
import { IndexDesk } from "./index-desk.ts";

/** The desk, and a second way to it: for the worker that reads. */
class OpenIndexDesk extends IndexDesk {
  serve(port: MessagePort): void {
    expose(this, port);
  }
}
export type IndexWorker = OpenIndexDesk;

expose(new OpenIndexDesk());
