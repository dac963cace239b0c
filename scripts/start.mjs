// npm start: from a fresh clone to an open bench for real work, without practice things.
import { openBench } from "./lib/serve.mjs";

openBench();
