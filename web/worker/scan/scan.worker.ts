import { expose } from "comlink";
import { ScanDesk } from "./scan-desk.ts";

// One worker for each medium that is scanned: its number is the worker's name.
expose(new ScanDesk(Number(self.name)));
