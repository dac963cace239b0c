import { expose } from "comlink";
import { PhoneDesk } from "./phone-desk.ts";

expose(new PhoneDesk());
