import { expose } from "comlink";
import { ReadingDesk } from "./reading-desk.ts";

expose(new ReadingDesk());
