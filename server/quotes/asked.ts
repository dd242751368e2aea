import { type Address, addressGaps } from "core/address/index.ts"
import { isoDayOr } from "core/calendar/schema.ts"
import { ownCode } from "core/identifier/index.ts"
import { type Money, money } from "core/money/index.ts"
import { buildPallets, type Content, type PackagingType } from "core/packing/index.ts"
import { type DangerousGood, freightClasses, type RatedPackage } from "core/rating/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { categoriesOf, optionCodes } from "core/tariff/index.ts"
import { mass, size } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { z } from "zod"
import { wayBetween } from "../addresses/way.ts"
import type { ItemRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { categoryOf, dangerousGood } from "../goods/dangerous.ts"
import { usableCartons } from "../packaging/boxes.ts"
import { contentOf, packagingTypes, palletIn } from "../packaging/catalog.ts"
import { type Estimate, estimated, mostRated, palletsRated } from "../plan/estimate.ts"
import { suggestedParcels } from "../plan/suggested.ts"
import type { Rateable, RatingGround } from "../rating/offers.ts"
import type { Sending } from "../rating/parcelWays.ts"

const text = (most: number, description: string) => z.string().trim().max(most).default("").describe(description)
const figure = (description: string) =>
  z
    .string()
    .trim()
    .regex(/^\d{1,6}(\.\d{1,4})?$/, { error: "quote.figure" })
    .refine((value) => Number(value) > 0, { error: "quote.figure" })
    .describe(description)

const shipTo = z.strictObject({
  company: text(60, "Company."),
  attention: text(60, "Person or department."),
  street: text(60, "Street and number; a PO box is known by it."),
  street2: text(60, "Second line."),
  city: text(40, "City."),
  state: text(6, "State or province, such as MN.").transform((value) => value.toUpperCase()),
  postalCode: z.string().trim().min(1, { error: "quote.postal-code" }).max(12).describe("Postal code."),
  country: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z]{2}$/, { error: "quote.country" })
    .default("US")
    .describe("ISO 3166-1 alpha-2."),
  phone: text(24, "Telephone."),
  kind: z.enum(["unknown", "business", "residential"]).default("unknown"),
})

const pack = z.strictObject({
  count: z.number().int().min(1).max(200).default(1).describe("So many alike."),
  weight: figure("Gross weight of one."),
  weightUnit: z.enum(["lb", "kg"]).default("lb"),
  length: figure("Outer edges."),
  width: figure("Outer edges."),
  height: figure("Outer edges."),
  lengthUnit: z.enum(["in", "cm"]).default("in"),
  pallet: z.boolean().default(false).describe("It stands on a pallet."),
  freightClass: z
    .enum(["", ...freightClasses])
    .default("")
    .describe("Class of the goods; without one their density decides."),
  stackable: z.boolean().default(false),
})

/** What a quote is asked for: packages by weight and size, or items that are packed as they probably would be. */
export const quoteAsked = z
  .strictObject({
    customer: text(40, "Code of the customer, by which he is charged."),
    shipTo,
    packages: z.array(pack).max(60).default([]),
    lines: z
      .array(
        z.strictObject({
          sku: z.string().transform(ownCode).pipe(z.string().min(1).max(24)),
          quantity: z.number().int().min(1).max(99_999),
        }),
      )
      .max(200)
      .default([])
      .describe("Items and pieces, instead of packages."),
    options: z.array(z.enum(optionCodes)).max(40).default([]),
    promisedOn: z
      .union([z.literal(""), isoDayOr("quote.date")])
      .default("")
      .describe("Day by which it must arrive."),
    worth: z
      .union([z.literal(""), z.string().regex(/^\d{1,9}(\.\d{1,2})?$/, { error: "quote.figure" })])
      .default("")
      .describe("What the goods are worth; of lines it is known."),
    note: text(500, "For whoever reads the quote."),
  })
  .describe("What is to be quoted.")
export type QuoteAsked = z.infer<typeof quoteAsked>

/** The same as the engine takes it, or why it can't be: items that are not known, no goods, an address that is none. */
export async function rateableQuote(
  db: Knex,
  ground: RatingGround,
  asked: QuoteAsked,
): Promise<Outcome<{ readonly rateable: Rateable; readonly packages: number; readonly worth: Money | null }>> {
  const { warehouse } = ground
  const address: Address = asked.shipTo
  const wrong: Reason[] = []
  if (asked.packages.length === 0 && asked.lines.length === 0) wrong.push(reason("quote.nothing"))
  if (asked.packages.length > 0 && asked.lines.length > 0) wrong.push(reason("quote.both"))
  const typedPackages = asked.packages.reduce((sum, one) => sum + one.count, 0)
  if (typedPackages > mostRated) wrong.push(reason("quote.too-many", { packages: typedPackages, most: mostRated }))
  // a place is enough: who lives there is asked when it is sent
  wrong.push(...addressGaps(address).filter((gap) => ["postalCode", "country"].includes(gap.values.field ?? "")))
  const items =
    asked.lines.length > 0
      ? await db("item").whereIn(
          "sku",
          asked.lines.map((one) => one.sku),
        )
      : []
  const byItem = new Map(items.map((row) => [String(row.sku), row]))
  for (const line of asked.lines) {
    const item = byItem.get(line.sku)
    if (!item) wrong.push(reason("quote.no-item", { sku: line.sku }))
    else if (item.weight_kg === null) wrong.push(reason("quote.no-weight", { sku: line.sku }))
  }
  if (wrong.length > 0) return refused(...wrong)
  const rows = asked.lines.map((line) => ({ ...there(byItem.get(line.sku)), quantity: line.quantity }))
  const types = await packagingTypes(db)
  const dangerous: DangerousGood[] = rows.flatMap((row) => dangerousGood(row) ?? [])
  const worth = asked.worth !== "" ? money(asked.worth, warehouse.currency) : worthOfRows(rows, warehouse.currency)
  const sending: Sending = {
    shipTo: address,
    promisedOn: asked.promisedOn || null,
    dangerous,
    categories: categoriesOf(rows.map(categoryOf), ["receiver-licence"]),
    options: asked.options,
    value: worth,
    distance: wayBetween({ country: warehouse.country, postalCode: warehouse.postalCode }, address),
    payer: "shipper",
    account: "",
    dutiesPayer: null,
    shipOn: null,
    collectionId: null,
    chosenServiceId: null,
  }
  const contents = rows.map((row, at): Content => contentOf(row, at, row.quantity))
  const packed = suggestedParcels(
    { ...ground, cartons: await usableCartons(db, warehouse.id) },
    sending,
    contents.map((piece, id) => ({ id, piece })),
    undefined,
  )
  const goods =
    asked.packages.length > 0 ? typed(asked.packages, palletIn(types)) : estimated(types, contents, undefined, packed)
  if (goods.packages > mostRated)
    return refused(reason("quote.too-many", { packages: goods.packages, most: mostRated }))
  return accepted({
    worth,
    packages: goods.standing === "pallet" ? goods.pallets.length : goods.parcels.length,
    rateable: { ...sending, ...goods },
  })
}

/** Packages as they were typed; loose ones are rated as freight as they would stand on a pallet, where they can. */
function typed(packages: QuoteAsked["packages"], pallet: PackagingType | null): Estimate {
  const all = packages.flatMap((one) =>
    Array.from(
      { length: one.count },
      (): Omit<RatedPackage, "number"> => ({
        weight: mass(one.weight, one.weightUnit),
        size: size(one.length, one.width, one.height, one.lengthUnit),
        handling: one.pallet ? "pallet" : "parcel",
        freightClass: one.freightClass || null,
        stackable: one.stackable,
      }),
    ),
  )
  const numbered = all.map((one, at): RatedPackage => ({ ...one, number: at + 1 }))
  if (packages.some((one) => one.pallet))
    return { parcels: numbered, pallets: numbered, standing: "pallet", packages: numbered.length }
  const built = pallet ? buildPallets(pallet, numbered) : null
  const pallets = built?.ok ? palletsRated(built.value, numbered) : numbered
  return { parcels: numbered, pallets, standing: "loose", packages: numbered.length }
}

function worthOfRows(rows: readonly (ItemRow & { readonly quantity: number })[], currency: string): Money | null {
  if (rows.length === 0 || rows.some((row) => row.currency !== currency)) return null
  const sum = rows.reduce((total, row) => total.add(new Decimal(row.value).mul(row.quantity)), new Decimal(0))
  return money(sum.toDecimalPlaces(2), currency)
}
