import { z } from "zod"
import { messageRoute, mostRoutes } from "../shipNotice/routing.ts"
import { optionCodes } from "../tariff/options.ts"

/** Who pays the freight (common practice of the trade, no single source). */
export const payerTerms = ["prepaid", "prepaid-added", "collect", "third-party"] as const
export type PayerTerms = (typeof payerTerms)[number]

const code = z.string().trim().max(16)
const copies = z.number().int().min(1).max(9)

/**
 * What a whole shipment is sent with. What is not said is left to whoever comes next, and at the end to the plan: the
 * cheapest service in time, the smallest carton, prepaid, the usual copies.
 */
export const settingsSchema = z.strictObject({
  /** Code of a service. */
  service: code.min(1).optional(),
  /** Code of a packaging to begin with. */
  packaging: code.min(1).optional(),
  liftgate: z.boolean().optional(),
  /** What carriers are asked for besides carrying. */
  options: z.array(z.enum(optionCodes)).min(1).optional(),
  /** Terms and the account that is billed, which a third party must have. */
  payer: z.strictObject({ terms: z.enum(payerTerms), account: z.string().trim().max(40) }).optional(),
  /** What the carrier is told that the goods are worth, in the warehouse's currency. */
  declared: z
    .string()
    .regex(/^\d{1,7}(\.\d{1,2})?$/, { error: "wish.amount" })
    .optional(),
  /** A label for the way back is bought with the labels: printed to go into the box, or e-mailed. */
  returnLabel: z.enum(["print", "mail"]).optional(),
  /** Code of the service that goods come back by. */
  returnService: code.min(1).optional(),
  invoiceCopies: copies.optional(),
  ladingCopies: copies.optional(),
})
/** What a person set for one order by hand: options may be none at all. */
export const byHandSchema = settingsSchema.extend({ options: z.array(z.enum(optionCodes)).optional() })
export type Settings = z.infer<typeof settingsSchema>
export type SettingName = keyof Settings
export const settingNames = Object.keys(settingsSchema.shape) as SettingName[]

/** A customer's routing instruction: what its shipments must be sent with, and what is allowed for them. */
export const routingSchema = z.strictObject({
  ...settingsSchema.shape,
  /** Services that may be used; none named: all. */
  services: z.array(code.min(1)).max(60).default([]),
  /** Orders may be joined into one shipment. */
  join: z.boolean().default(true),
  /** An order may leave from more than one warehouse. */
  split: z.boolean().default(true),
  /** Days that goods must still be good for after the promised day. */
  minimumLife: z.number().int().min(0).max(3_650).default(0),
  /** What becomes of pieces that lack; other than this needs the lead. */
  whenShort: z.enum(["any", "back-order", "wait", "cancel"]).default("any"),
  /** Where his systems want messages of the trade. */
  messages: z.array(messageRoute).max(mostRoutes).default([]),
})
export type Routing = z.infer<typeof routingSchema>

/** A customer that asks for nothing and allows all. */
export const freeRouting: Routing = routingSchema.parse({})

/** Who said a setting: a person for this order, the customer's routing instruction, a pattern that was chosen, or a rule. */
export interface SaidBy {
  readonly kind: "hand" | "routing" | "pattern" | "rule"
  readonly name: string
}

export type Settled = {
  readonly [Name in SettingName]?: { readonly value: NonNullable<Settings[Name]>; readonly by: SaidBy }
}

/** The value of a setting, or undefined where it is not set. */
export const settingOf = <Name extends SettingName>(settled: Settled, name: Name): Settings[Name] =>
  settled[name]?.value as Settings[Name]
