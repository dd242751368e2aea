import { z } from "zod"

/** Messages that a customer's system can be told by, each by the standard that it is of. */
export const messageKinds = [
  /** Advance ship notice: UN/EDIFACT DESADV. */
  "desadv",
  /** Instruction to a freight carrier: UN/EDIFACT IFTMIN. */
  "iftmin",
  /** Packed, loaded, shipped: GS1 EPCIS events. */
  "epcis",
] as const
export type MessageKind = (typeof messageKinds)[number]

export const messageWays = ["mail", "folder", "http"] as const
export type MessageWay = (typeof messageWays)[number]

const fits: Readonly<Record<MessageWay, (to: string) => boolean>> = {
  mail: (to) => z.email().max(120).safeParse(to).success,
  // a name below the folder that all lie in, never a path
  folder: (to) => /^[a-z0-9][a-z0-9-]{0,39}$/.test(to),
  http: (to) =>
    z
      .url({ protocol: /^https?$/ })
      .max(200)
      .safeParse(to).success,
}

/** Where one kind of message goes by a customer's routing instruction. */
export const messageRoute = z
  .strictObject({
    kind: z.enum(messageKinds),
    way: z.enum(messageWays),
    to: z.string().trim().max(200),
    /** How an interchange names whom it is for, such as his GLN; empty: the customer's code. */
    receiver: z
      .string()
      .trim()
      .regex(/^[\x20-\x7e]{0,35}$/, "routing.message-receiver")
      .default(""),
  })
  .superRefine(({ way, to }, context) => {
    if (!fits[way](to)) context.addIssue({ code: "custom", message: `routing.message-${way}`, path: ["to"] })
  })
export type MessageRoute = z.infer<typeof messageRoute>

/** What became of a message: with its other side only once that acknowledged it. */
export const messageStates = ["waiting", "sent", "acknowledged", "refused"] as const
export type MessageState = (typeof messageStates)[number]

/** Routes of one customer at most. */
export const mostRoutes = 9
