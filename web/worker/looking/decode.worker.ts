import { expose } from "comlink";
import { DecodeDesk } from "./decode-desk.ts";

expose(new DecodeDesk());
