import { proxy, type Remote, wrap } from "comlink";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import type { PhoneView } from "../../core/phones/phone-view.ts";
import type { PhoneWorker } from "../worker/phones/protocol.ts";

/** Phones on the bench, as the worker that holds them tells. Null: nothing was heard yet. */
const phones = createStore<{ readonly all: readonly PhoneView[] | null }>(() => ({ all: null }));

let desk: Remote<PhoneWorker> | null = null;

/** The worker that holds all phones: one as long as the page lives, started when it is first asked for. */
export function phoneDesk(): Remote<PhoneWorker> {
  if (desk) return desk;
  desk = wrap<PhoneWorker>(new Worker(new URL("../worker/phones/phone.worker.ts", import.meta.url), { type: "module" }));
  void desk.watch(proxy((all: readonly PhoneView[]) => phones.setState({ all })));
  return desk;
}

/** Hears of every change of any phone. @returns how to stop hearing */
export function onPhones(heard: (all: readonly PhoneView[]) => void): () => void {
  phoneDesk();
  heard(phones.getState().all ?? []);
  return phones.subscribe(({ all }) => heard(all ?? []));
}

const NONE: readonly PhoneView[] = [];
export function usePhones(): readonly PhoneView[] {
  phoneDesk();
  return useStore(phones, ({ all }) => all ?? NONE);
}

/** States, the one that more can be done with first: the same phone may be seen by two ways at once. */
const BEST_FIRST: readonly PhoneView["state"][] = [
  "ready",
  "in recovery",
  "in bootloader",
  "in download mode",
  "waiting for the person to allow",
  "offline",
  "attached, not answering",
  "nothing attached",
];

/** The phone with this serial, by the way that reaches furthest; null where it is not on the bench. */
export const bestOf = (all: readonly PhoneView[], serial: string | null): PhoneView | null =>
  all.filter((phone) => phone.serial === serial).sort((a, b) => BEST_FIRST.indexOf(a.state) - BEST_FIRST.indexOf(b.state))[0] ?? null;

export const usePhone = (serial: string | null): PhoneView | null => bestOf(usePhones(), serial);

/** The part of the browser's WebUSB that a click is needed for (WICG WebUSB). */
interface UsbChooser {
  readonly usb?: { requestDevice(options: { filters: object[] }): Promise<unknown> };
}
/** ADB's interface: vendor-specific, subclass 66, protocol 1 (AOSP, adb.h). */
const ADB_INTERFACE = { classCode: 0xff, subclassCode: 0x42, protocolCode: 1 };

export const hasUsb = (): boolean => "usb" in navigator;

/** Lets the person choose a phone at this computer's socket; must be called from a click. Closing the chooser is no error. */
export async function chooseUsbPhone(): Promise<void> {
  await (navigator as UsbChooser).usb?.requestDevice({ filters: [ADB_INTERFACE] }).catch(() => undefined);
}
