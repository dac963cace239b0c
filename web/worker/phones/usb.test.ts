import { connect, type Socket } from "node:net";
import { afterAll, expect, test, vi } from "vitest";
import { introduce } from "../../../core/phones/adb/connection.ts";
import { keyRing, makeKey } from "../../../core/phones/adb/keys.ts";
import { encodePacket, PacketReader } from "../../../core/phones/adb/packets.ts";
import { reportOf } from "../../../core/phones/adb/phone-report.ts";
import { listShared, sharedFileSource } from "../../../core/phones/adb/shared-storage.ts";
import { phoneOnCable, Served } from "../../../test/practice-phones.ts";
import { hashOf, practiceTruth } from "../../../test/scanning.ts";
import { usbPhones } from "./usb.ts";

/**
 * A USB device as a browser shows it (WICG WebUSB §6), with ADB's interface: what is transferred goes to a practice phone.
 * As over a real cable, a packet comes as two transfers: its header, then its payload.
 */
class FakeUsbDevice {
  readonly productName = "Siskin 3";
  readonly serialNumber = "PRACTICE-01";
  readonly vendorId = 0xfeed;
  readonly productId = 1;
  opened = false;
  claimed: number[] = [];
  readonly #port: number;
  #socket: Socket | null = null;
  readonly #transfers: Uint8Array[] = [];
  #wake: () => void = () => {};

  constructor(port: number) {
    this.#port = port;
  }

  readonly configurations = [
    {
      configurationValue: 1,
      interfaces: [
        { interfaceNumber: 0, claimed: false, alternate: this.#alternate(8, 6, 80), alternates: [this.#alternate(8, 6, 80)] },
        { interfaceNumber: 1, claimed: false, alternate: this.#alternate(0xff, 0x42, 1), alternates: [this.#alternate(0xff, 0x42, 1)] },
      ],
    },
  ];
  readonly configuration = this.configurations[0];

  #alternate(interfaceClass: number, interfaceSubclass: number, interfaceProtocol: number) {
    const endpoints = [
      { direction: "in", endpointNumber: 1, packetSize: 512 },
      { direction: "out", endpointNumber: 2, packetSize: 512 },
    ];
    return { alternateSetting: 0, interfaceClass, interfaceSubclass, interfaceProtocol, endpoints };
  }

  async open() {
    this.opened = true;
    const reader = new PacketReader();
    this.#socket = connect(this.#port, "127.0.0.1").on("data", (piece) => {
      for (const { command, arg0, arg1, payload } of reader.take(piece)) {
        const packet = encodePacket(command, arg0, arg1, payload);
        this.#transfers.push(packet.slice(0, 24));
        if (payload.length > 0) this.#transfers.push(packet.slice(24));
      }
      this.#wake();
    });
  }

  async claimInterface(number: number) {
    this.claimed.push(number);
  }

  async transferOut(endpoint: number, bytes: Uint8Array) {
    expect(endpoint).toBe(2);
    this.#socket?.write(Buffer.from(bytes));
    return { status: "ok", bytesWritten: bytes.length };
  }

  async transferIn(endpoint: number, length: number) {
    expect(endpoint).toBe(1);
    while (this.#transfers.length === 0)
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
    const [transfer] = this.#transfers.splice(0, 1);
    expect(transfer.length).toBeLessThanOrEqual(length);
    return { status: "ok", data: new DataView(transfer.buffer) };
  }

  async close() {
    this.#socket?.destroy();
  }
}

const served = new Served();
afterAll(() => {
  served.close();
  vi.unstubAllGlobals();
});

test("a phone under navigator.usb: its debugging interface is found, claimed and spoken to; files come whole", async () => {
  const phone = await phoneOnCable("siskin-healthy", true);
  const device = new FakeUsbDevice(await served.adb(phone));
  const usb = Object.assign(new EventTarget(), { getDevices: async () => [device] });
  vi.stubGlobal("navigator", { usb });
  const [found] = await usbPhones();
  expect(found).toMatchObject({ serial: "PRACTICE-01", name: "Siskin 3" });
  const { connection, hangUp } = await found.open();
  expect(device.claimed).toEqual([1]);
  const adb = await introduce(found.serial, connection, keyRing([await makeKey("bench@jubar")]), () => {});
  expect(await reportOf(adb)).toMatchObject({ model: "Siskin 3", android: "12", battery: 64 });
  const { files } = await listShared(adb, () => {});
  const [truth] = practiceTruth()
    .files.filter(({ state }) => state === "present")
    .sort((a, b) => b.size - a.size);
  const file = files.find(({ path }) => path === truth.path);
  if (!file) throw new Error(truth.path);
  const source = sharedFileSource(adb, file);
  expect(hashOf(await source.read(0, file.size))).toBe(truth.sha256);
  hangUp();
  usb.dispatchEvent(Object.assign(new Event("disconnect"), { device }));
  await adb.disconnected;
});

test("without WebUSB, or with other devices only, there is no phone", async () => {
  vi.stubGlobal("navigator", {});
  expect(await usbPhones()).toEqual([]);
  const printer = new FakeUsbDevice(0);
  printer.configurations[0].interfaces.pop();
  vi.stubGlobal("navigator", { usb: Object.assign(new EventTarget(), { getDevices: async () => [printer] }) });
  expect(await usbPhones()).toEqual([]);
});
