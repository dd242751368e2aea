import type { Knex } from "knex"
import type { Shipment } from "../packages/shipment.ts"

/**
 * Writes which lots lie in which package, when packages are closed: what was picked of each lot goes into the packages in
 * the order of their numbers. A line of one lot, which is nearly all, is exact; of several it is the order of packing.
 */
export async function writeLots(trx: Knex, shipment: Shipment): Promise<void> {
  const packages = [...shipment.packages].sort((a, b) => a.number - b.number)
  const packed = packages.map((one) => one.id)
  // a delete that finds nothing locks the gap that it looked in, and whoever closes next door would wait for it
  if (await trx("package_lot").whereIn("package_id", packed).first("package_id"))
    await trx("package_lot").whereIn("package_id", packed).delete()
  const picked = await trx("allocation as a")
    .join("stock as s", "s.id", "a.stock_id")
    .join("lot as l", "l.id", "s.lot_id")
    .whereIn(
      "a.order_line_id",
      shipment.lines.map((line) => line.id),
    )
    .where("a.picked", ">", 0)
    .orderByRaw("l.expires_on IS NULL, l.expires_on, a.id")
    .select("a.order_line_id", "l.id as lot_id", "a.picked")
  const left = picked.map((row) => ({ ...row }))
  const rows: { package_id: number; order_line_id: number; lot_id: number; quantity: number }[] = []
  for (const one of packages)
    one.contents.forEach((content, index) => {
      let need = content.quantity
      for (const lot of left) {
        if (need <= 0) break
        if (lot.order_line_id !== one.lineIds[index] || lot.picked <= 0) continue
        const quantity = Math.min(need, lot.picked)
        lot.picked -= quantity
        need -= quantity
        const known = rows.find(
          (row) => row.package_id === one.id && row.order_line_id === lot.order_line_id && row.lot_id === lot.lot_id,
        )
        if (known) known.quantity += quantity
        else rows.push({ package_id: one.id, order_line_id: lot.order_line_id, lot_id: lot.lot_id, quantity })
      }
    })
  if (rows.length > 0) await trx("package_lot").insert(rows)
}
