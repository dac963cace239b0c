import { z } from "zod";
import { isPlainPattern } from "./table-pattern.ts";

/** Longest chain of steps from what is stored to what is meant. */
const MOST_STEPS = 8;
const name = z.string().min(1).max(500);
const scalar = z.union([z.string().max(2000), z.number(), z.boolean(), z.null()]);

/** How what is stored becomes what is meant, in turn, each within bounds. */
export const StepSchema = z.union([
  z.enum(["utf8", "utf16le", "utf16be", "latin1", "inflate", "gunzip", "base64", "msgpack", "cbor", "xml", "integer", "longest"]),
  /** A value in a JSON text, or in what another step took apart (RFC 6901). */
  z.strictObject({ json: z.string().max(500) }),
  /** Bytes behind their own length. */
  z.strictObject({ prefixed: z.enum(["u8", "u16le", "u16be", "u32le", "u32be", "varint"]), skip: z.number().int().min(0).max(64) }),
  /** A field of length-delimited fields, by the numbers on the way to it (Protocol Buffers encoding). */
  z.strictObject({ field: z.array(z.number().int().min(1).max(536_870_911)).min(1).max(8) }),
  /** A bit of a number. */
  z.strictObject({ bit: z.number().int().min(0).max(52) }),
  z.strictObject({ map: z.record(z.string(), z.string()) }),
]);
export type Step = z.infer<typeof StepSchema>;

/** A column of a table by "alias.column", what the name of a table of a conversation has in its place, or what is always so. */
export const ValueSchema = z.union([
  z.strictObject({ col: name, as: z.array(StepSchema).max(MOST_STEPS).optional() }),
  z.strictObject({ part: name }),
  z.strictObject({ const: scalar }),
]);
export type MappedValue = z.infer<typeof ValueSchema>;

const SimpleCondSchema = z.strictObject({
  from: ValueSchema,
  in: z.array(scalar).max(1000).optional(),
  not: z.array(scalar).max(1000).optional(),
  /** True: says nothing. */
  empty: z.boolean().optional(),
});
/** Some of which all must be so. */
export const CondSchema = z.array(SimpleCondSchema).min(1).max(8);
export type Cond = z.infer<typeof CondSchema>;

const TableRefSchema = z.union([
  z.strictObject({ as: name, name }),
  /** Many tables of one shape: the pattern's group is what differs. */
  z.strictObject({
    as: name,
    pattern: name.refine(isPlainPattern, "a pattern of table names has one group, and nothing in it that is repeated is a group"),
    part: name,
  }),
]);

export const UNITS = ["s", "ms", "us", "ns", "100ns", "day"] as const;
export const EPOCHS = [1, 1601, 1899, 1904, 1970, 1980, 2001, 4713] as const;
export const TimeSchema = z.strictObject({
  from: ValueSchema,
  unit: z.enum(UNITS),
  /** Year that it is counted from: 1 and 1601 (in 100 ns), 1899 (days of spreadsheets), 1904, 1970, 1980, 2001; 4713: Julian days. */
  epoch: z.literal(EPOCHS),
  /** It is a text: in ISO 8601, in another order of day, month and year, or with the English name of its month. */
  text: z.enum(["iso", "day first", "month first", "rfc 5322", "month named"]).optional(),
  /** What is added: a time of day beside a day. */
  plus: z.strictObject({ from: ValueSchema, unit: z.enum(UNITS), text: z.literal("clock").optional() }).optional(),
});
export type MappedTime = z.infer<typeof TimeSchema>;

const DirectionSchema = z.union([
  z.strictObject({ by: z.literal("value"), from: ValueSchema, in: z.array(scalar), out: z.array(scalar) }),
  /** The sender is one's own, or says nothing. */
  z.strictObject({ by: z.literal("sender"), from: ValueSchema }),
  z.strictObject({ by: z.literal("empty"), from: ValueSchema, empty: z.enum(["in", "out"]) }),
  z.strictObject({ by: z.literal("pair"), sender: ValueSchema, recipient: ValueSchema }),
]);

const ConversationSchema = z.union([
  z.strictObject({ by: z.literal("columns"), from: z.array(ValueSchema).min(1).max(4) }),
  /** With whom: of sender and recipient the one that is not oneself; what is a group is a recipient too. */
  z.strictObject({ by: z.literal("pair"), sender: ValueSchema, recipient: ValueSchema }),
]);

const AttachmentSchema = z.strictObject({
  /** Where it is another table: each of its rows that says so is an attachment. */
  table: name.optional(),
  on: z.tuple([ValueSchema, name]).optional(),
  /** Where it is a list in a JSON text: what is said of each is a JSON pointer from there. */
  each: ValueSchema.optional(),
  /** Only where this is not empty there is one. */
  path: ValueSchema.optional(),
  name: ValueSchema.optional(),
  type: ValueSchema.optional(),
  content: ValueSchema.optional(),
});
export type MappedAttachment = z.infer<typeof AttachmentSchema>;

const OneTable = z.strictObject({
  /** Version of this shape. */
  shape: z.literal(1),
  name: z.string().min(1).max(200),
  /** Package of the messenger, where it is known. */
  app: z.string().max(300).nullable(),
  /** Alias "m" is the table of the messages. */
  fits: z.strictObject({ tables: z.array(TableRefSchema).min(1).max(20), columns: z.record(z.string(), z.array(name).max(500)) }),
  /** Rows of other tables that a message is put together from: the row whose column says the same as a value of the message. */
  joins: z.array(z.strictObject({ as: name, on: z.tuple([ValueSchema, name]) })).max(20),
  own: z.array(ValueSchema).max(20),
  at: TimeSchema,
  direction: DirectionSchema,
  /** What nobody wrote: any of these. */
  system: z.array(CondSchema).max(20),
  /** Rows among the messages that are none, as reactions: any of these. */
  besides: z.array(CondSchema).max(20).optional(),
  conversation: ConversationSchema,
  talk: z
    .strictObject({
      table: name,
      key: z.array(name).min(1).max(4),
      title: name.optional(),
      group: z.strictObject({ column: name, values: z.array(scalar) }).optional(),
    })
    .optional(),
  /** Who is in a conversation: a table with a row for each. */
  members: z.strictObject({ table: name, key: name, person: name.optional(), address: z.array(name), name: z.array(name) }).optional(),
  /** People: by their key their names and addresses. */
  people: z.strictObject({ table: name, key: name, address: z.array(name), name: z.array(name) }).optional(),
  /** Who wrote what came in. */
  sender: z.strictObject({ key: ValueSchema.optional(), address: z.array(ValueSchema), name: z.array(ValueSchema) }),
  /** The first that is not empty. */
  text: z.array(ValueSchema).min(1).max(8),
  marks: z.array(z.strictObject({ when: CondSchema, means: z.enum(["binned", "hidden", "draft", "edited"]) })).max(20),
  drafts: z.array(z.strictObject({ table: name, text: ValueSchema, at: TimeSchema.optional(), conversation: z.array(ValueSchema) })).max(8),
  attachments: z.array(AttachmentSchema).max(8),
  because: z.array(z.strictObject({ part: z.string(), why: z.string(), share: z.number().min(0).max(1) })),
  sureness: z.number().min(0).max(1),
});

export const MappingSchema = OneTable.extend({
  /** Further tables of messages of the same app: those of groups, or older ones. */
  more: z.array(OneTable).max(8).optional(),
});

/** How the tables of a messenger are read as conversations. */
export type Mapping = z.infer<typeof MappingSchema>;
