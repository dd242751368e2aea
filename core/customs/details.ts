import { z } from "zod"
import { purposes } from "./purpose.ts"

const line = (most: number) => z.string().trim().max(most).default("")
const amount = z
  .string()
  .regex(/^\d{1,9}(\.\d{1,2})?$/, { error: "customs.amount" })
  .nullable()
  .default(null)

/** A party to a sale over a border that is not the one at the order's ship-to. */
export const customsPartySchema = z.strictObject({
  company: line(60),
  attention: line(60),
  street: line(60),
  street2: line(60),
  city: line(40),
  state: line(6),
  postalCode: line(12),
  country: z
    .string()
    .regex(/^([A-Z]{2})?$/, { error: "book.country" })
    .default(""),
  phone: line(24),
  taxNumber: line(30),
  eori: line(17),
})
export type CustomsParty = z.infer<typeof customsPartySchema>

/** Whom an invoice may name besides the receiver. */
export const customsRoles = ["exporter", "seller", "buyer", "importer", "notify"] as const
export type CustomsRole = (typeof customsRoles)[number]

/**
 * What is said of an order for customs besides its goods. Amounts are of the whole order, in its currency: its parts
 * share them by what they are worth.
 */
export const customsDetailsSchema = z.strictObject({
  purpose: z.enum(purposes).default("sale"),
  /** The invoice is a pro forma: nothing is owed by it. */
  proForma: z.boolean().default(false),
  /** A paper that was attached to the order is its invoice; ours is not made. */
  ownInvoice: z.boolean().default(false),
  parties: z.partialRecord(z.enum(customsRoles), customsPartySchema).default({}),
  /** The receiver's numbers. */
  receiverTax: line(30),
  receiverEori: line(17),
  freight: amount,
  insurance: amount,
  packing: amount,
  discount: amount,
  /** Number of an export licence; empty: none is needed. */
  licence: line(30),
  /** The goods only pass through the country that they are sent to. */
  transit: z.boolean().default(false),
  /** What the export filing was answered with: `X` and 14 digits. */
  itn: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^(X\d{14})?$/, { error: "customs.itn" })
    .default(""),
  /** The receiver's licence for alcohol. */
  receiverLicence: line(40),
  /** The shipper declares that all goods are of the kind that a restricted rate is for. */
  declaresKind: z.boolean().default(false),
  /** The receiver wants a certificate of origin. */
  certificateOfOrigin: z.boolean().default(false),
  remarks: line(240),
})
export type CustomsDetails = z.infer<typeof customsDetailsSchema>

export const noDetails: CustomsDetails = customsDetailsSchema.parse({})

/** What one order line says to customs otherwise than its item does; empty: as the item. */
export const lineCustomsSchema = z.strictObject({
  description: line(80),
  material: line(60),
  use: line(60),
  hsCode: line(13),
  origin: line(2),
  unit: line(3),
  /** Net kilograms of one unit. */
  netKg: z
    .string()
    .regex(/^(\d{1,6}(\.\d{1,6})?)?$/, { error: "customs.net" })
    .default(""),
  /** Value of one base unit in the order's currency. */
  value: z
    .string()
    .regex(/^(\d{1,9}(\.\d{1,4})?)?$/, { error: "customs.amount" })
    .default(""),
})
export type LineCustoms = z.infer<typeof lineCustomsSchema>
export const noLineCustoms: LineCustoms = lineCustomsSchema.parse({})

/**
 * Units in which customs count goods, by UNECE Recommendation 20: piece, kilogram, gram, litre, metre, square metre, pair,
 * set, thousand (from memory).
 */
export const customsUnits = ["C62", "KGM", "GRM", "LTR", "MTR", "MTK", "PR", "SET", "MIL"] as const
export type CustomsUnit = (typeof customsUnits)[number]
