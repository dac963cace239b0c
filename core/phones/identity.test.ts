import { expect, test } from "vitest";
import { differenceOf, type PhoneIdentity } from "./identity.ts";

const phone: PhoneIdentity = {
  serial: "0123456789ABCDEF",
  maker: "Corvane",
  model: "Siskin 3",
  build: "S3.120.04",
  key: "AA:BB",
  storage: 64_000_000_000,
};

test.each<[string, Partial<PhoneIdentity>, string | null]>([
  ["the same phone", {}, null],
  ["another model of the same serial", { model: "Tern One" }, "its model is Tern One, and was Siskin 3"],
  ["another build", { build: "S3.121.00" }, "its build code is S3.121.00, and was S3.120.04"],
  ["a storage of another size", { storage: 128_000_000_000 }, "its storage size is 128000000000, and was 64000000000"],
  ["it knows another key", { key: "CC:DD" }, "its allowed key is CC:DD, and was AA:BB"],
  ["a phone that tells less this time", { build: null, key: null, storage: null }, null],
])("%s", (_, now, difference) => {
  expect(differenceOf(phone, { ...phone, ...now })).toBe(difference);
});
