import { expose } from "comlink";
import { JobDesk } from "./job-desk.ts";

expose(new JobDesk());
