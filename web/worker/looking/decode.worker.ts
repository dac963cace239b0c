import { expose } from "comlink";
import { DecodeDesk } from "./decode-desk.ts";
import { boundMemory } from "./memory-bound.ts";

/** A picture of fifty million pixels, which is let in at most, takes a decoder some four bytes for each, and as many again where it is turned. */
const MOST_MEMORY = 448 * 1024 * 1024;

boundMemory(MOST_MEMORY);
expose(new DecodeDesk());
