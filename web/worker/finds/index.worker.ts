import { expose, type ProxyMarked, proxy } from "comlink";
import { IndexDesk } from "./index-desk.ts";
import type { PeopleDesk } from "./people-desk.ts";

/** The desk, and other ways to it: for the worker that reads, and to what people mean by rows. */
class OpenIndexDesk extends IndexDesk {
  serve(port: MessagePort): void {
    expose(this, port);
  }

  peopleDesk(): PeopleDesk & ProxyMarked {
    return proxy(this.people);
  }
}
export type IndexWorker = OpenIndexDesk;

expose(new OpenIndexDesk());
