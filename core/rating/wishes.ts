import { z } from "zod"
import { type PreferredBy, preferers } from "../preferences/index.ts"
import { type PayerTerms, payerTerms, type Settled, settingOf } from "../rules/settings.ts"
import { type OptionCode, optionCodes } from "../tariff/index.ts"
import type { Payer } from "./request.ts"

const amount = z.string().regex(/^\d{1,9}(\.\d{1,2})?$/)

/** What is asked for a shipment besides carrying it, and who pays. Amounts are in the warehouse's currency. */
export const wishesSchema = z.strictObject({
  options: z.array(z.enum(optionCodes)).default([]),
  /** Whose preference the options are, where no rule and nobody for this shipment said them. */
  optionsBy: z
    .strictObject({ kind: z.enum(preferers), name: z.string().max(80) })
    .nullable()
    .default(null),
  /** With the option `declared-value`: the value that the carrier is told; null: what the goods are worth. */
  declared: amount.nullable().default(null),
  /** With the option `dry-ice`: kilograms in each package. */
  dryIceKg: amount.nullable().default(null),
  /** With the option `hold-at-location`: where the receiver fetches it, in the carrier's words. */
  holdAt: z.string().trim().max(120).default(""),
  /** Pallets may have others on top of them. */
  stackable: z.boolean().default(false),
  /** Who pays the freight, where that is another than was settled for the order. */
  payer: z
    .strictObject({ terms: z.enum(payerTerms), account: z.string().trim().max(40) })
    .nullable()
    .default(null),
  /** Who pays duties and taxes of a shipment over a border; null: as the Incoterm says. */
  dutiesPayer: z.enum(["shipper", "receiver", "third-party"]).nullable().default(null),
})
export type Wishes = z.infer<typeof wishesSchema>

export const noWishes: Wishes = wishesSchema.parse({})

/**
 * What a shipment is asked for before anybody changes it: what was settled for its order, and where that says nothing of
 * options, those that whoever opens it prefers.
 */
export const settledWishes = (
  settled: Settled,
  usual: { readonly value: readonly OptionCode[]; readonly by: PreferredBy } | null = null,
): Wishes => {
  const said = settingOf(settled, "options")
  const options = said ?? usual?.value ?? []
  return wishesSchema.parse({
    options: [...new Set([...options, ...(settingOf(settled, "liftgate") ? (["liftgate"] as const) : [])])],
    optionsBy: said === undefined && usual ? usual.by : null,
    declared: settingOf(settled, "declared") ?? null,
  })
}

/** Terms as a carrier's tariff knows them. */
export const payerOf = (terms: PayerTerms): Payer =>
  terms === "collect" ? "receiver" : terms === "third-party" ? "third-party" : "shipper"

/** Whether an account is written as its carrier writes accounts: `9` a figure, `A` a letter; an empty form takes any. */
export const accountMatches = (form: string, account: string): boolean =>
  form === "" ||
  (form.length === account.length &&
    [...form].every((sign, at) => {
      const written = account[at] as string
      return sign === "9" ? /\d/.test(written) : sign === "A" ? /[A-Z]/.test(written) : sign === written
    }))

/** A lift gate lowers pallets: a service that takes parcels by hand is not asked for one (common practice). */
const ofPallets: ReadonlySet<OptionCode> = new Set(["liftgate", "liftgate-pickup"])
/** Freight on pallets is always signed for on its bill of lading: it is not asked for again (common practice). */
const ofParcels: ReadonlySet<OptionCode> = new Set(["signature"])

/** The options that a service is asked for, by what it carries. */
export const askedOf = (handling: "parcel" | "pallet" | "any", options: readonly OptionCode[]): Set<OptionCode> =>
  new Set(
    options.filter((option) =>
      handling === "parcel" ? !ofPallets.has(option) : handling === "any" || !ofParcels.has(option),
    ),
  )
