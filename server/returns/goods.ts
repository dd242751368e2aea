import { type Address, addressLines } from "core/address/index.ts"
import type { PackLoad } from "core/packing/index.ts"
import type { RatedPackage } from "core/rating/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { compute } from "../compute/pool.ts"
import { handled, type Shipment } from "../packages/shipment.ts"
import { usableCartons } from "../packaging/boxes.ts"
import { loadsOf } from "../packing/suggestion.ts"
import { parcelsOf } from "../plan/suggested.ts"
import type { Warehouse } from "../setup/warehouse.ts"

const line = (most: number) => z.string().trim().max(most).default("")

/** Packages that come back by one booking, at most. */
export const mostBack = 50

/** What comes back and where to. */
export const returnAsk = z.object({
  /** Numbers of packages; none and no pieces: the whole shipment. */
  packages: z.array(z.coerce.number().int().min(1)).max(200).default([]),
  /** Pieces by the id of their line: these are packed as would be suggested. */
  pieces: z.record(z.string().regex(/^\d{1,10}$/), z.coerce.number().int().min(0).max(1_000_000)).default({}),
  to: z.enum(["warehouse", "return-to", "other"]).default("warehouse"),
  company: line(60),
  attention: line(60),
  street: line(60),
  street2: line(60),
  city: line(40),
  state: line(6).transform((text) => text.toUpperCase()),
  postalCode: line(12),
  country: line(2).transform((text) => text.toUpperCase()),
})
export type ReturnAsk = z.infer<typeof returnAsk>

/** The whole shipment, to the warehouse that it came from. */
export const wholeBack: ReturnAsk = returnAsk.parse({})

/** What comes back, as carriers see it, with what is in it in words. */
export interface ComingBack {
  readonly packages: readonly RatedPackage[]
  /** What was chosen, as it is kept: packages by number, or pieces by line. */
  readonly goods: readonly { readonly sku: string; readonly pieces: number }[]
}

/**
 * The packages that come back: those of the shipment that were chosen, as they went out, or pieces of its lines packed as
 * would be suggested. Refused for what never went out, and for more than one booking takes.
 */
export async function comingBack(db: Knex, shipment: Shipment, ask: ReturnAsk): Promise<Outcome<ComingBack>> {
  const wanted = new Map(Object.entries(ask.pieces).flatMap(([id, n]) => (n > 0 ? [[Number(id), n] as const] : [])))
  if (wanted.size > 0) return packedAnew(db, shipment, wanted)
  const all = handled(shipment.packages)
  const chosen = ask.packages.length === 0 ? all : all.filter((one) => ask.packages.includes(one.number))
  if (chosen.length === 0) return refused(reason("return.nothing"))
  if (chosen.length > mostBack) return refused(reason("return.too-many", { most: mostBack }))
  const on = (number: number) => shipment.packages.filter((one) => one.on === number)
  const within = chosen.flatMap((one) => [one, ...on(one.number)]).flatMap((one) => one.contents)
  const goods = new Map<string, number>()
  for (const one of within) goods.set(one.item.sku, (goods.get(one.item.sku) ?? 0) + one.quantity)
  return accepted({
    packages: chosen.map((one, index) => ({
      number: index + 1,
      weight: one.actual,
      size: one.outer,
      packaging: one.packaging,
      handling: one.kind === "pallet" ? "pallet" : "parcel",
    })),
    goods: [...goods].map(([sku, pieces]) => ({ sku, pieces })),
  })
}

async function packedAnew(
  db: Knex,
  shipment: Shipment,
  wanted: ReadonlyMap<number, number>,
): Promise<Outcome<ComingBack>> {
  for (const [id, n] of wanted) {
    const line = shipment.lines.find((one) => one.id === id)
    if (!line || n > line.packed)
      return refused(reason("return.not-sent", { sku: line?.sku ?? "", sent: line?.packed ?? 0 }))
  }
  const loads: readonly PackLoad[] = loadsOf(shipment, (one) => wanted.get(one.id) ?? 0)
  const cartons = (await usableCartons(db, shipment.warehouseId)).filter(({ box }) => box.carrier === null)
  const boxes = cartons.map(({ box }) => box)
  const suggested = await compute("suggest", { loads, boxes })
  if (!suggested.ok) return suggested
  if (suggested.value.left.length > 0) return refused(...suggested.value.left.map((one) => one.why))
  if (suggested.value.boxes.length > mostBack) return refused(reason("return.too-many", { most: mostBack }))
  const lineOf = new Map(shipment.lines.map((one) => [String(one.id), one]))
  return accepted({
    packages: parcelsOf(cartons, suggested.value.boxes, loads),
    goods: [...wanted].map(([id, pieces]) => ({ sku: lineOf.get(String(id))?.sku ?? "", pieces })),
  })
}

/** Where goods go back to, as carriers rate it and as its label shows it. */
export interface BackTo {
  readonly address: Address
  readonly lines: readonly string[]
}

/** The place that was asked for; refused where the order has no return address, or one that was typed has a gap. */
export function backTo(warehouse: Warehouse, shipment: Shipment, ask: ReturnAsk): Outcome<BackTo> {
  if (ask.to === "warehouse") {
    const { postalCode, state, country } = warehouse
    const [company = ""] = warehouse.sender
    const none = { attention: "", street: "", street2: "", city: "", phone: "" }
    return accepted({
      address: { company, ...none, state, postalCode, country, kind: "business" },
      lines: warehouse.sender,
    })
  }
  if (ask.to === "return-to") {
    const { returnTo } = shipment
    if (!returnTo) return refused(reason("return.no-address"))
    return accepted({ address: { ...returnTo, kind: "business" }, lines: addressLines(returnTo) })
  }
  const { company, attention, street, street2, city, state, postalCode, country } = ask
  const gap = (["company", "street", "city", "postalCode", "country"] as const).find((name) => ask[name] === "")
  if (gap) return refused(reason("return.address-gap", { field: gap }))
  const address: Address = {
    company,
    attention,
    street,
    street2,
    city,
    state,
    postalCode,
    country,
    phone: "",
    kind: "business",
  }
  return accepted({ address, lines: addressLines(address) })
}
