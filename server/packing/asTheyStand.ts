import { rateable } from "../packages/goods.ts"
import type { Shipment } from "../packages/shipment.ts"
import { askedOf, type Ground } from "../plan/plan.ts"
import type { PlannedRows } from "../plan/plannedRows.ts"

/** What is rated of an order: its packages, or where there are none, those that its goods would fill. */
export function asTheyStand(
  ground: Ground,
  own: PlannedRows,
  shipment: Shipment,
  pallet: Ground["packaging"][number] | null,
) {
  return isPacked(shipment)
    ? rateable(ground.warehouse, shipment, pallet)
    : { ...askedOf(ground, own.order, own.lines), ...shipment.leaving }
}

/** Whether something of a shipment is in a package. */
export const isPacked = (shipment: Pick<Shipment, "packages">): boolean =>
  shipment.packages.some((one) => one.contents.length > 0 || !one.carried.isZero())
