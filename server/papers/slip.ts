import { addressLines } from "core/address/index.ts"
import { type SlipModel, type SlipSettings, slipSettings } from "core/documents/index.ts"
import type { LineId, OrderId } from "core/ids/index.ts"
import { money, unitAmount } from "core/money/index.ts"
import type { Knex } from "knex"
import { paperWords } from "words/papers.ts"
import { parsed } from "../audit/index.ts"
import { there } from "../db/there.ts"
import type { Shipment, ShipmentPackage } from "../packages/shipment.ts"
import { shipmentOrDraft } from "../packages/shipment.ts"
import { warehouseById } from "../setup/warehouse.ts"

/** What slips of an order show. A shipment in another's name never shows prices, and shows that name. */
export async function slipSettingsOf(
  db: Knex,
  shipment: Pick<Shipment, "warehouseId" | "orderId" | "sender">,
): Promise<SlipSettings> {
  const warehouse = there(await db("warehouse").where({ id: shipment.warehouseId }).first("slip"))
  const customer = await db("customer as c")
    .join("sales_order as o", "o.customer_id", "c.id")
    .where("o.id", shipment.orderId)
    .first("c.slip")
  const merged = slipSettings(
    parsed<Partial<SlipSettings>>(warehouse.slip),
    customer ? parsed<Partial<SlipSettings>>(customer.slip) : {},
  )
  if (!shipment.sender) return merged
  return {
    ...merged,
    prices: false,
    letterhead: merged.letterhead.length > 0 ? merged.letterhead : addressLines(shipment.sender),
  }
}

/**
 * The slips of an order's shipment: one for each package, or one for all of them. Before anything is packed there is one,
 * of what is held or picked for the order. Null for no such order.
 */
export async function slipsOf(db: Knex, orderId: OrderId): Promise<SlipModel[] | null> {
  const shipment = await shipmentOrDraft(db, orderId)
  if (!shipment) return null
  const settings = await slipSettingsOf(db, shipment)
  const words = paperWords(shipment.language)
  const { say } = words
  const warehouse = await warehouseById(db, shipment.warehouseId)
  const rows = await db("order_line")
    .whereIn(
      "id",
      shipment.lines.map((line) => line.id),
    )
    .select("id", "order_id", "line_number", "unit_price", "cancelled")
  const order = there(
    await db("sales_order")
      .where({ id: shipment.orderId })
      .first("ordered_on", "source_id", "source_number", "currency", "message"),
  )
  const parts = await otherParts(db, order, shipment)
  const priceOf = (row: { readonly unit_price: string | null } | undefined) =>
    settings.prices && row?.unit_price ? unitAmount(money(row.unit_price, order.currency)) : ""
  const facts = [
    { name: say("print.our-order"), text: shipment.members.map((one) => one.orderNumber).join(", ") },
    { name: say("print.your-order"), text: shipment.poNumber },
    { name: say("print.ordered"), text: words.date(order.ordered_on) },
    ...shipment.references.map((one) => ({ name: one.name, text: one.value })),
  ].filter((fact) => fact.text)
  const held = await heldOf(db, shipment)
  const numbers = new Set(rows.flatMap((row) => (row.order_id === shipment.orderId ? [row.line_number as number] : [])))
  const inside = (some: readonly ShipmentPackage[], lineId: LineId) =>
    some.reduce(
      (sum, one) =>
        sum +
        one.contents.reduce((own, content, index) => own + (one.lineIds[index] === lineId ? content.quantity : 0), 0),
      0,
    )
  // lines that are in this slip's packages; the first slip names those that are in none, too
  const slip = (
    number: string,
    piece: string,
    packages: readonly ShipmentPackage[] | null,
    first: boolean,
  ): SlipModel => ({
    language: words.language,
    letterhead: settings.letterhead.length > 0 ? settings.letterhead : warehouse.sender,
    number,
    piece,
    shipTo: addressLines(shipment.shipTo),
    facts,
    withPrices: settings.prices,
    withLots: settings.lots,
    message: [order.message, settings.message].filter(Boolean).join("\n"),
    rows: [
      ...shipment.lines.flatMap((line) => {
        const anywhere = inside(shipment.packages, line.id)
        const shipped = packages ? inside(packages, line.id) : (held.get(line.id) ?? 0)
        if (packages && shipped === 0 && (anywhere > 0 || !first)) return []
        const elsewhere = packages ? anywhere - shipped : 0
        const row = rows.find((one) => one.id === line.id)
        const cancelled = Number(row?.cancelled ?? 0)
        const later = row?.order_id === shipment.orderId ? (parts.get(row?.line_number)?.quantity ?? 0) : 0
        // before anything is packed all of it is still to be shipped with this order
        const open = packages ? Math.max(0, line.ordered - anywhere) : 0
        return [
          {
            line: line.letter,
            sku: line.sku,
            description: line.description,
            lots: settings.lots ? line.lots.join(" ") : "",
            ordered: line.ordered + cancelled + later,
            shipped,
            elsewhere,
            backOrdered: settings.backOrders ? open + later : 0,
            cancelled,
            price: priceOf(row),
          },
        ]
      }),
      ...(settings.backOrders && first
        ? [...parts].flatMap(([lineNumber, part]) =>
            numbers.has(lineNumber)
              ? []
              : [
                  {
                    line: "",
                    sku: part.sku,
                    description: part.description,
                    lots: "",
                    ordered: part.quantity,
                    shipped: 0,
                    elsewhere: 0,
                    backOrdered: part.quantity,
                    cancelled: 0,
                    price: priceOf(part),
                  },
                ],
          )
        : []),
    ],
  })
  const packed = shipment.packages.filter((one) => one.contents.length > 0)
  if (packed.length === 0) return [slip(shipment.orderNumber, "", null, true)]
  if (settings.per === "shipment")
    return [
      slip(
        shipment.orderNumber,
        packed.length > 1 ? say("print.packages-n", { n: packed.length }) : "",
        shipment.packages,
        true,
      ),
    ]
  return packed.map((one, index) =>
    slip(
      `${shipment.orderNumber}-${one.number}`,
      say("print.package-of", { n: index + 1, of: packed.length }),
      [one],
      index === 0,
    ),
  )
}

/** Pieces that orders hold or have picked, by line. */
async function heldOf(db: Knex, shipment: Shipment): Promise<Map<number, number>> {
  const rows: { order_line_id: number; n: string }[] = await db("allocation")
    .whereIn(
      "order_line_id",
      shipment.lines.map((line) => line.id),
    )
    .groupBy("order_line_id")
    .select("order_line_id", db.raw("SUM(quantity) AS n"))
  return new Map(rows.map((row) => [row.order_line_id, Number(row.n)]))
}

/** A line, or pieces of one, that another part of the same order has. */
interface PartLine {
  readonly sku: string
  readonly description: string
  readonly quantity: number
  readonly unit_price: string | null
}

/** What other parts of the same order still have to ship, by the number of the line: it is "to come". */
async function otherParts(
  db: Knex,
  order: { readonly source_id: number; readonly source_number: string },
  shipment: Shipment,
): Promise<Map<number, PartLine>> {
  const rows = await db("sales_order as o")
    .join("order_line as l", "l.order_id", "o.id")
    .join("item as i", "i.id", "l.item_id")
    .where({ "o.source_id": order.source_id, "o.source_number": order.source_number })
    .whereNull("o.cancelled_at")
    .whereNull("o.left_line_at")
    .whereNotIn(
      "o.id",
      shipment.members.map((one) => one.id),
    )
    .where("l.ordered", ">", 0)
    .orderBy("l.line_number")
    .select("l.line_number", "i.sku", "i.description", "l.unit_price", "l.ordered")
  const found = new Map<number, PartLine>()
  for (const { line_number, ordered, ...line } of rows)
    found.set(line_number, { ...line, quantity: (found.get(line_number)?.quantity ?? 0) + ordered })
  return found
}
