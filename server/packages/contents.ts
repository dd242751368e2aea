import type { LocalDate } from "core/calendar/index.ts"
import type { NoticeContent } from "core/shipNotice/index.ts"
import type { Knex } from "knex"
import type { Shipment, ShipmentPackage } from "./shipment.ts"

/** The pieces that a package holds, by line, as they were scanned into it. */
export async function contentsOf(
  db: Knex,
  shipment: Shipment,
  packages: readonly ShipmentPackage[],
): Promise<Map<number, NoticeContent[]>> {
  const ids = packages.map((one) => one.id)
  const [contents, lots] = await Promise.all([
    db("package_content").whereIn("package_id", ids).orderBy("order_line_id"),
    db("package_lot as p")
      .join("lot as l", "l.id", "p.lot_id")
      .whereIn("p.package_id", ids)
      .orderBy("l.code")
      .select("p.package_id", "p.order_line_id", "p.quantity", "l.code", "l.expires_on"),
  ])
  const at = new Map(shipment.lines.map((one, index) => [one.id, { line: index + 1, lots: one.lots }]))
  const held = new Map<number, NoticeContent[]>()
  for (const one of contents) {
    const own = lots.filter((lot) => lot.package_id === one.package_id && lot.order_line_id === one.order_line_id)
    const line = at.get(one.order_line_id)
    // where several lots were picked, only who holds all of the line holds them for certain
    const alone = contents.filter((other) => other.order_line_id === one.order_line_id).length === 1
    const counted = own.reduce((sum, lot) => sum + lot.quantity, 0)
    const certain = counted === one.quantity && ((line?.lots.length ?? 0) === 1 || alone)
    held.set(one.package_id, [
      ...(held.get(one.package_id) ?? []),
      {
        line: line?.line ?? 0,
        quantity: one.quantity,
        lots: certain
          ? own.map((lot) => ({
              code: lot.code,
              expiresOn: lot.expires_on as LocalDate | null,
              quantity: lot.quantity,
            }))
          : [],
      },
    ])
  }
  return held
}
