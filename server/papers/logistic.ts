import { addressLines } from "core/address/index.ts"
import { elementStrings, type LogisticLabelModel } from "core/documents/index.ts"
import type { LineId, OrderId } from "core/ids/index.ts"
import { pieceGtin } from "core/picking/index.ts"
import { showMass } from "core/units/index.ts"
import { iso31661 } from "iso-3166"
import type { Knex } from "knex"
import type { Say } from "words/index.ts"
import { paperWords } from "words/papers.ts"
import { type ShipmentPackage, shipmentOf } from "../packages/shipment.ts"
import { warehouseById } from "../setup/warehouse.ts"

/**
 * Logistic labels of the packages of an order that have their SSCC; a pallet's content is that of its cartons. Empty
 * before they are closed; null for an order without a shipment.
 */
export async function logisticLabels(db: Knex, orderId: OrderId): Promise<LogisticLabelModel[] | null> {
  const shipment = await shipmentOf(db, orderId)
  if (!shipment) return null
  const warehouse = await warehouseById(db, shipment.warehouseId)
  const abroad = shipment.shipTo.country !== warehouse.country
  const unit = abroad ? "kg" : "lb"
  const words = paperWords(shipment.language)
  const { say } = words
  const lots = await db("package_lot as p")
    .join("lot as l", "l.id", "p.lot_id")
    .whereIn(
      "p.package_id",
      shipment.packages.map((one) => one.id),
    )
    .select("p.package_id", "p.quantity", "l.code", "l.expires_on")
  const closed = shipment.packages.filter((one) => one.sscc)
  return closed.map((one, index) => {
    const parts = [one, ...shipment.packages.filter((other) => other.on === one.number)]
    const content = contentOf(parts)
    const own = lots.filter((lot) => parts.some((part) => part.id === lot.package_id))
    const line = content ? shipment.lines.find((each) => each.id === content.lineId) : undefined
    // of mixed goods a lot says nothing of the whole; where several lots were picked nobody saw which lies in here
    const counted = own.reduce((sum, each) => sum + Number(each.quantity), 0)
    const lot = content && line?.lots.length === 1 && counted === content.count ? own[0] : null
    const gtin = line ? pieceGtin(line.levels) : null
    const number = iso31661.find((country) => country.alpha2 === shipment.shipTo.country)?.numeric ?? null
    return {
      language: words.language,
      sscc: one.sscc as string,
      sender: shipment.sender ? addressLines(shipment.sender) : warehouse.sender,
      receiver: addressLines(shipment.shipTo),
      facts: [
        {
          name: say("print.package"),
          text: `${shipment.orderNumber}-${one.number}, ${say("print.piece-of", { n: index + 1, of: closed.length })}`,
        },
        { name: say("print.gross"), text: showMass(one.actual, unit) },
        { name: say("print.your-order"), text: shipment.poNumber || "–" },
        content && line
          ? { name: say("print.content"), text: say("print.content-of", { n: content.count, sku: line.sku }) }
          : {
              name: say("print.content"),
              text: say("print.content-mixed", { n: parts.reduce((sum, part) => sum + pieces(part), 0) }),
            },
        ...(lot ? [{ name: say("print.lot"), text: lot.code as string }] : []),
        ...(line && line.lots.length > 1 ? [{ name: say("print.lots"), text: eitherLot(line.lots, say) }] : []),
        ...(lot?.expires_on ? [{ name: say("print.expires"), text: words.date(lot.expires_on as string) }] : []),
      ],
      symbols: elementStrings({
        sscc: one.sscc as string,
        content:
          content && gtin
            ? { gtin, count: content.count, lot: lot?.code ?? null, expiresOn: lot?.expires_on ?? null }
            : null,
        gross: one.actual,
        unit,
        purchaseOrder: shipment.poNumber,
        postalCode: shipment.shipTo.postalCode,
        countryNumber: abroad ? number : null,
      }),
    }
  })
}

/** Of several lots one or another. */
const eitherLot = (lots: readonly string[], say: Say): string =>
  say("print.lot-or", { lots: lots.slice(0, -1).join(", "), last: lots.at(-1) ?? "" })

const pieces = (one: ShipmentPackage): number => one.contents.reduce((sum, content) => sum + content.quantity, 0)

/** What a unit holds where it is all of one line; null for a mixed one. */
function contentOf(parts: readonly ShipmentPackage[]): { lineId: LineId; count: number } | null {
  const lines = new Set(parts.flatMap((part) => [...part.lineIds]))
  const [lineId] = lines
  return lines.size === 1 && lineId !== undefined
    ? { lineId, count: parts.reduce((sum, part) => sum + pieces(part), 0) }
    : null
}
