import { shareLots } from "core/packing/index.ts"
import type { Knex } from "knex"
import type { Shipment, ShipmentLine } from "../packages/shipment.ts"

/**
 * Which lots of a line lie in each package, by the package's number: as they are packed, or with what is planned to come
 * in as well. Kept whole where the warehouse asks for it; else in the order of packing. A line of one lot, which is nearly
 * all, is exact.
 */
export function lotsByPackage(shipment: Shipment, line: ShipmentLine, planned: boolean) {
  const packages = [...shipment.packages].sort((a, b) => a.number - b.number)
  const holds = packages.map((one) => {
    const inside = one.contents.reduce(
      (sum, content, at) => sum + (one.lineIds[at] === line.id ? content.quantity : 0),
      0,
    )
    return planned && one.state === "open" ? Math.max(inside, one.planned[line.id] ?? 0) : inside
  })
  const shares = shareLots(holds, line.lotsPicked, shipment.keepTogether === "lots")
  return new Map(packages.map((one, at) => [one.number, shares[at] ?? []]))
}

/** Of lines of several lots, what is to be told where lots are kept together: by package and line; else nothing. */
export function lotsTold(shipment: Shipment): Map<number, Record<string, { code: string; quantity: number }[]>> {
  const told = new Map<number, Record<string, { code: string; quantity: number }[]>>()
  if (shipment.keepTogether !== "lots") return told
  for (const line of shipment.lines.filter((one) => one.lots.length > 1))
    for (const [number, lots] of lotsByPackage(shipment, line, true)) {
      const own = told.get(number) ?? {}
      own[line.id] = lots.map(({ lot, quantity }) => ({ code: lot.code, quantity }))
      told.set(number, own)
    }
  return told
}

/** Writes which lots lie in which package, when packages are closed. */
export async function writeLots(trx: Knex, shipment: Shipment): Promise<void> {
  const packed = shipment.packages.map((one) => one.id)
  // a delete that finds nothing locks the gap that it looked in, and whoever closes next door would wait for it
  if (await trx("package_lot").whereIn("package_id", packed).first("package_id"))
    await trx("package_lot").whereIn("package_id", packed).delete()
  const ids = new Map(shipment.packages.map((one) => [one.number, one.id]))
  const rows = shipment.lines.flatMap((line) =>
    [...lotsByPackage(shipment, line, false)].flatMap(([number, lots]) =>
      lots.map(({ lot, quantity }) => ({
        package_id: ids.get(number) as number,
        order_line_id: line.id,
        lot_id: lot.id,
        quantity,
      })),
    ),
  )
  if (rows.length > 0) await trx("package_lot").insert(rows)
}
