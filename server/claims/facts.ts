import { type LocalDate, localDate } from "core/calendar/index.ts"
import {
  type ClaimAmounts,
  type ClaimKind,
  type ClaimTerms,
  claimAmounts,
  claimTermsSchema,
  fileBy,
  freightTerms,
  parcelTerms,
} from "core/claims/index.ts"
import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { mass, massIn } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { TrackedUnitRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import type { BookingRequest } from "../gateways/carrier.ts"
import { customsOf } from "../goods/customs.ts"

/** A line of what packages hold, as it may be claimed. */
export interface ClaimableLine {
  readonly lineId: number
  readonly sku: string
  readonly description: string
  /** Pieces in the packages, and what one is worth by the order; null: nobody said. */
  readonly pieces: number
  readonly unitValue: string | null
}

/** What is known of packages that something is claimed for. */
export interface ClaimFacts {
  readonly lines: readonly ClaimableLine[]
  readonly tracking: readonly string[]
  readonly names: readonly string[]
  /** The shipment's own number; empty: none. */
  readonly master: string
  readonly shippedOn: LocalDate
  readonly dueOn: LocalDate | null
  readonly deliveredOn: LocalDate | null
  readonly freight: string
  readonly shipmentValue: string
  readonly declared: string | null
  /** Packages of which nothing was declared, and what they weigh. */
  readonly undeclared: { readonly packages: number; readonly pounds: string }
}

/** A carrier's terms for claims, as they are set up, or as is usual for what it carries. */
export async function termsOf(db: Knex, carrierId: number | null): Promise<ClaimTerms> {
  const carrier = carrierId ? await db("carrier").where({ id: carrierId }).first("claim_terms") : undefined
  if (carrier?.claim_terms) return claimTermsSchema.parse(parsed(carrier.claim_terms))
  const freight = carrierId
    ? await db("service").where({ carrier_id: carrierId }).whereIn("mode", ["freight", "groupage"]).first("id")
    : undefined
  return freight ? freightTerms : parcelTerms
}

/** Values by line of orders' goods, in a currency. */
async function valuesOf(db: Knex, orderIds: readonly number[], currency: string) {
  const rows = await db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .whereIn("l.order_id", [...orderIds])
    .orderBy("l.line_number")
    .select("i.*", "l.line_number", "l.unit", "l.unit_price", "l.customs", "l.id as line_id", "l.ordered")
  const levels = await db("item_level")
    .whereIn(
      "item_id",
      rows.map((row) => row.id),
    )
    .select("item_id", "name", "quantity", "gtin")
  return rows.map((row) => ({
    lineId: row.line_id,
    sku: row.sku,
    description: row.description,
    ordered: row.ordered,
    value: customsOf(
      row,
      currency,
      levels
        .filter((one) => one.item_id === row.id)
        .map((one) => ({ name: one.name, count: one.quantity, gtin: one.gtin })),
    ).unitValue,
  }))
}

/** Pieces by line in packages, with what stands on them. */
async function piecesIn(db: Knex, where: (query: Knex.QueryBuilder) => void): Promise<Map<number, number>> {
  const query = db("package_content as c").join("package as p", "p.id", "c.package_id").groupBy("c.order_line_id")
  where(query)
  const rows: { order_line_id: number; pieces: unknown }[] = await query
    .select("c.order_line_id")
    .sum({ pieces: "c.quantity" })
  return new Map(rows.map((row) => [row.order_line_id, Number(row.pieces)]))
}

/** Pieces of items by line, as far as each line goes. */
function spread(
  goods: readonly { readonly sku: string; readonly pieces: number }[],
  lines: readonly { readonly lineId: number; readonly sku: string; readonly ordered: number }[],
): Map<number, number> {
  const left = new Map<string, number>()
  for (const { sku, pieces } of goods) left.set(sku, (left.get(sku) ?? 0) + pieces)
  return new Map(
    lines.map(({ lineId, sku, ordered }) => {
      const pieces = Math.min(ordered, left.get(sku) ?? 0)
      left.set(sku, (left.get(sku) ?? 0) - pieces)
      return [lineId, pieces]
    }),
  )
}

/** Whether anybody saw a package go. */
export const hasLeft = (unit: Pick<TrackedUnitRow, "left_at" | "seen_at">): boolean =>
  unit.left_at !== null || unit.seen_at !== null

/**
 * What is known of packages of one order's shipment that have left, or of one that comes back, in the warehouse's
 * currency; null: none of them is there.
 */
export async function claimFacts(
  db: Knex,
  warehouseId: WarehouseId,
  orderId: OrderId,
  unitIds: readonly number[],
  currency: string,
): Promise<{ readonly facts: ClaimFacts; readonly units: readonly TrackedUnitRow[] } | null> {
  const units = await db("tracked_unit")
    .where({ warehouse_id: warehouseId, order_id: orderId })
    .whereIn("id", [...unitIds])
    .whereNull("void_at")
    .where((seen) => seen.whereNotNull("left_at").orWhereNotNull("seen_at"))
    .orderBy("id")
  const [first] = units
  if (!first) return null
  const members: number[] = await db("sales_order").where({ joined_to_id: orderId }).pluck("id")
  const values = await valuesOf(db, [orderId, ...members], currency)
  const packages = units.flatMap((one) => one.package_id ?? [])
  const back = first.return_id ? await db("return_intent").where({ id: first.return_id }).first() : undefined
  const held =
    packages.length > 0
      ? await piecesIn(db, (query) =>
          query.where((any) => any.whereIn("p.id", packages).orWhereIn("p.parent_id", packages)),
        )
      : back
        ? spread(parsed<{ sku: string; pieces: number }[]>(back.goods), values)
        : new Map(values.map((one) => [one.lineId, one.ordered]))
  const shipment = packages.length
    ? await db("shipment as h")
        .join("package as p", "p.shipment_id", "h.id")
        .where("p.id", packages[0] as number)
        .first("h.id", "h.contract_amount", "h.ship_date")
    : undefined
  const all = shipment ? await piecesIn(db, (query) => query.where("p.shipment_id", shipment.id)) : held
  const worth = (pieces: ReadonlyMap<number, number>): Decimal =>
    values.reduce((sum, one) => sum.add((one.value ?? new Decimal(0)).mul(pieces.get(one.lineId) ?? 0)), new Decimal(0))
  const weights = await db("package").whereIn("id", packages).select("number", "sent_kg", "measured_kg")
  const request = shipment
    ? await db("buy_intent").where({ shipment_id: shipment.id, state: "booked" }).orderBy("id", "desc").first("request")
    : undefined
  const declared = new Map(
    request
      ? parsed<BookingRequest>(request.request).packages.flatMap((one) =>
          weights.some((own) => own.number === one.number) && one.declared ? [[one.number, one.declared]] : [],
        )
      : [],
  )
  const pounds = weights
    .filter((one) => !declared.has(one.number))
    .reduce((sum, one) => sum.add(massIn(mass(one.sent_kg ?? one.measured_kg ?? "0", "kg"), "lb")), new Decimal(0))
  // nothing is claimed of what was never seen
  const left = there(first.left_at ?? back?.scanned_at ?? first.since ?? first.seen_at)
  const delivered = units.flatMap((one) => (one.delivered_at ? [localDate(one.delivered_at, one.zone)] : [])).toSorted()
  return {
    units,
    facts: {
      lines: values.flatMap((one) => {
        const pieces = held.get(one.lineId) ?? 0
        return pieces > 0
          ? [
              {
                lineId: one.lineId,
                sku: one.sku,
                description: one.description,
                pieces,
                unitValue: one.value?.toFixed(Math.max(2, one.value.decimalPlaces())) ?? null,
              },
            ]
          : []
      }),
      tracking: units.map((one) => one.tracking),
      names: units.map((one) => one.name),
      master: first.master,
      shippedOn: first.shipped_on ?? shipment?.ship_date ?? localDate(left, first.zone),
      dueOn: first.due_on ?? first.arrives_on,
      deliveredOn: delivered.at(-1) ?? null,
      freight: shipment?.contract_amount ?? (back?.currency === currency ? back.expected_amount : "0"),
      shipmentValue: worth(all).toFixed(),
      declared:
        declared.size > 0 ? [...declared.values()].reduce((sum, one) => sum.add(one), new Decimal(0)).toFixed() : null,
      undeclared: { packages: units.length - declared.size, pounds: pounds.toFixed(3) },
    },
  }
}

/** Pieces that are claimed of a line, and what one is worth. */
export interface ClaimGoods {
  readonly lineId: number
  readonly pieces: number
  readonly unitValue: string
}

/** What a claim for goods comes to, and until when it can be filed. */
export function claimOf(
  kind: ClaimKind,
  facts: ClaimFacts,
  goods: readonly ClaimGoods[],
  terms: ClaimTerms,
  currency: string,
): { readonly amounts: ClaimAmounts; readonly fileBy: LocalDate } {
  return {
    amounts: claimAmounts(
      {
        lines: goods,
        currency,
        freight: facts.freight,
        shipmentValue: facts.shipmentValue,
        declared: facts.declared,
        undeclared: facts.undeclared,
      },
      terms,
    ),
    fileBy: fileBy(kind, facts, terms),
  }
}
