import type { ShippedLine } from "core/customs/index.ts"
import { buildPallets, type PackagingType } from "core/packing/index.ts"
import type { FreightClass, RatedPackage } from "core/rating/index.ts"
import { said } from "core/rules/index.ts"
import { Decimal } from "decimal.js"
import type { Shipment, ShipmentPackage } from "../packing/shipment.ts"
import type { Rateable } from "../rating/offers.ts"

/** Packages that hold or carry something. */
const filled = (shipment: Shipment): ShipmentPackage[] =>
  shipment.packages.filter((one) => one.contents.length > 0 || !one.carried.isZero())

/** The class that a package's goods share by themselves, or null where density decides. */
export function ownClass(shipment: Shipment, one: ShipmentPackage): FreightClass | null {
  const inside = [one, ...shipment.packages.filter((other) => other.on === one.number)].flatMap((pack) => pack.lineIds)
  const classes = new Set(shipment.lines.filter((line) => inside.includes(line.id)).map((line) => line.freightClass))
  return classes.size === 1 ? ([...classes][0] ?? null) : null
}

/**
 * A shipment as parcel and as freight services see it. Cartons that stand on no pallet are rated as freight as they
 * would stand on the given one; what can stand on none stays loose, and is refused as such.
 */
export function rateable(shipment: Shipment, pallet: PackagingType | null): Rateable {
  const packages = filled(shipment)
  const rated = (one: ShipmentPackage): RatedPackage => ({
    number: one.number,
    weight: one.actual,
    size: one.outer,
    packaging: one.packaging,
    handling: one.kind === "pallet" ? "pallet" : "parcel",
    freightClass: ownClass(shipment, one),
  })
  const standing = packages.some((one) => one.kind === "pallet") ? "pallet" : "loose"
  const loose = packages.filter((one) => one.kind !== "pallet" && one.on === null)
  const built =
    standing === "loose" && pallet
      ? buildPallets(
          pallet,
          loose.map((one) => ({ number: one.number, size: one.outer, weight: one.actual })),
        )
      : null
  return {
    shipTo: shipment.shipTo,
    promisedOn: shipment.promisedOn,
    // a pallet with goods right on it can't be rated as parcels; one of cartons can, without its pallet
    parcels: packages.filter((one) => one.kind !== "pallet" || one.contents.length > 0).map(rated),
    pallets: built?.ok
      ? built.value.map((one, index) => ({ number: index + 1, weight: one.gross, size: one.outer, handling: "pallet" }))
      : packages.filter((one) => one.on === null).map(rated),
    standing,
    dangerous: [...new Set(shipment.lines.flatMap((line) => line.unNumber ?? []))],
    liftgate: shipment.liftgate,
    chosenServiceId: shipment.chosenServiceId,
    settledService: said(shipment.settled, "service"),
    allowed: shipment.allowed,
  }
}

/** What is in the shipment's packages, line by line, as its invoice states it. */
export function shippedLines(shipment: Shipment): ShippedLine[] {
  return shipment.lines
    .filter((line) => line.packed > 0)
    .map((line) => ({
      ...line.customs,
      unitValue: line.customs.unitValue ?? new Decimal(0),
      quantity: line.packed,
      unitWeight: line.piece.item.unitWeight,
    }))
}
