import { AdbDaemonWebUsbDeviceManager } from "@yume-chan/adb-daemon-webusb";
import type { Daemon } from "../../../core/phones/attached-phone.ts";

/** A phone at this computer's own socket, that the person let this page use. */
export interface UsbPhone {
  readonly serial: string;
  readonly name: string;
  open(): Promise<Daemon>;
}

/** The browser's WebUSB; TypeScript's own libraries do not know it yet. */
export type Usb = ConstructorParameters<typeof AdbDaemonWebUsbDeviceManager>[0];

/**
 * Phones attached over WebUSB (WICG WebUSB) whose debugging interface can be seen: class 255, subclass 66, protocol 1.
 * Empty where the browser has no WebUSB. @param usb the browser's, or a stand-in for it
 */
export async function usbPhones(usb: Usb | undefined = (globalThis.navigator as { usb?: Usb } | undefined)?.usb): Promise<UsbPhone[]> {
  if (!usb) return [];
  const devices = await new AdbDaemonWebUsbDeviceManager(usb).getDevices();
  return devices.map((device) => ({
    serial: device.serial,
    name: device.name || "phone",
    open: async () => ({ connection: await device.connect(), hangUp: () => void device.raw.close().catch(() => undefined) }),
  }));
}
