// npm run demo: from a fresh clone to an open bench with the practice things on it.
import { openBench } from "./lib/serve.mjs";

openBench("--media", "demo/practice-media.json", "--practice");
