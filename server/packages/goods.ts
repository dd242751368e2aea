import { type Money, money, sumMoney } from "core/money/index.ts"
import { shareOut } from "core/money/share.ts"
import { buildPallets, type PackagingType } from "core/packing/index.ts"
import { type FreightClass, payerOf, type RatedPackage, sharedClass } from "core/rating/index.ts"
import { type PayerTerms, settingOf } from "core/rules/index.ts"
import { categoriesOf } from "core/tariff/index.ts"
import { type Mass, mass, sumMass, timesMass } from "core/units/index.ts"
import { wayBetween } from "../addresses/way.ts"
import { palletsRated } from "../plan/estimate.ts"
import type { Rateable } from "../rating/offers.ts"
import type { Sending } from "../rating/parcelWays.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import type { Shipment, ShipmentPackage } from "./shipment.ts"

/** Packages that hold or carry something. */
const filled = (shipment: Shipment): ShipmentPackage[] =>
  shipment.packages.filter((one) => one.contents.length > 0 || !one.carried.isZero())

/** A package with what stands on it. */
const withCartons = (shipment: Shipment, one: ShipmentPackage): ShipmentPackage[] => [
  one,
  ...shipment.packages.filter((other) => other.on === one.number),
]

/** Who pays the freight, and on which account where that is not ours: as asked here, or as settled for the order. */
export const billingOf = (shipment: Shipment): { terms: PayerTerms; account: string } =>
  shipment.wishes.payer ?? settingOf(shipment.settled, "payer") ?? { terms: "prepaid", account: "" }

/** What is in a package, or in all of them, is worth; null where a line is valued in another currency. */
export function worthOf(shipment: Shipment, packages: readonly ShipmentPackage[], currency: string): Money | null {
  const parts = packages.flatMap((one) =>
    one.contents.flatMap((content, at) => {
      const line = shipment.lines.find((candidate) => candidate.id === one.lineIds[at])
      return line ? [{ worth: line.worth, quantity: content.quantity }] : []
    }),
  )
  if (parts.some((one) => one.worth.currency !== currency)) return null
  const sum = sumMoney(
    parts.map((one) => money(one.worth.amount.mul(one.quantity), currency)),
    currency,
  )
  return money(sum.amount.toDecimalPlaces(2), currency)
}

/** The weight of what is packed of each order of a shipment, by which it has its share of the freight. */
export const orderWeights = (shipment: Pick<Shipment, "members" | "lines">): Mass[] =>
  shipment.members.map((one) =>
    sumMass(
      shipment.lines
        .filter((line) => line.orderId === one.id)
        .map((line) => timesMass(line.piece.item.unitWeight, line.packed)),
    ),
  )

/** The orders of a shipment as what is charged looks at them: what each is worth in all its parts, and its weight. */
export function ordersIn(
  shipment: Pick<Shipment, "members" | "lines">,
  currency: string,
): { readonly worth: Money | null; readonly weight: Mass }[] {
  const weights = orderWeights(shipment)
  return shipment.members.map((one, at) => {
    const parts = [
      ...shipment.lines
        .filter((line) => line.orderId === one.id)
        .map((line) => money(line.worth.amount.mul(line.ordered), line.worth.currency)),
      ...one.elsewhere,
    ]
    const worth = parts.some((part) => part.currency !== currency) ? null : sumMoney(parts, currency)
    return {
      worth: worth && money(worth.amount.toDecimalPlaces(2), currency),
      weight: weights[at] as Mass,
    }
  })
}

/**
 * The value that the carrier is told for each handled package: what its goods are worth, or the value that was typed,
 * shared out by that. Nothing is declared where the option is not asked for.
 */
function declaredOf(shipment: Shipment, packages: readonly ShipmentPackage[], currency: string): Map<number, Money> {
  const { options, declared } = shipment.wishes
  if (!options.includes("declared-value")) return new Map()
  const worth = packages.map((one) => worthOf(shipment, withCartons(shipment, one), currency))
  const values =
    declared === null
      ? worth
      : shareOut(
          money(declared, currency),
          worth.map((one, at) => one?.amount ?? (packages[at] as ShipmentPackage).actual),
        )
  return new Map(packages.flatMap((one, at) => (values[at] ? [[one.number, values[at] as Money] as const] : [])))
}

/** The class that a package's goods share by themselves, or null where density decides. */
export function ownClass(shipment: Shipment, one: ShipmentPackage): FreightClass | null {
  const inside = withCartons(shipment, one).flatMap((pack) => pack.lineIds)
  return sharedClass(shipment.lines.filter((line) => inside.includes(line.id)))
}

/**
 * A shipment as parcel and as freight services see it. Cartons that stand on no pallet are rated as freight as they
 * would stand on the given one; what can stand on none stays loose, and is refused as such.
 */
export function rateable(warehouse: Warehouse, shipment: Shipment, pallet: PackagingType | null): Rateable {
  const packages = filled(shipment)
  const { wishes } = shipment
  const { currency } = warehouse
  const declared = new Map([
    ...declaredOf(
      shipment,
      packages.filter((one) => one.kind !== "pallet" || one.contents.length > 0),
      currency,
    ),
    ...declaredOf(
      shipment,
      packages.filter((one) => one.on === null),
      currency,
    ),
  ])
  const dryIce = wishes.options.includes("dry-ice") && wishes.dryIceKg ? mass(wishes.dryIceKg, "kg") : null
  const rated = (one: ShipmentPackage): RatedPackage => ({
    number: one.number,
    weight: one.actual,
    size: one.outer,
    packaging: one.packaging,
    handling: one.kind === "pallet" ? "pallet" : "parcel",
    freightClass: ownClass(shipment, one),
    stackable: one.kind !== "pallet" || wishes.stackable,
    declared: declared.get(one.number) ?? null,
    dryIce,
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
    ...sendingOf(warehouse, shipment, (line) => line.packed > 0, worthOf(shipment, packages, currency)),
    // a pallet with goods right on it can't be rated as parcels; one of cartons can, without its pallet
    parcels: packages.filter((one) => one.kind !== "pallet" || one.contents.length > 0).map(rated),
    pallets: built?.ok
      ? palletsRated(built.value, loose.map(rated)).map((one) => ({ ...one, stackable: wishes.stackable, dryIce }))
      : packages.filter((one) => one.on === null).map(rated),
    standing,
  }
}

/** A shipment without its packages, as services are asked: with the goods that are picked, where nothing else is said. */
export function sendingOf(
  warehouse: Warehouse,
  shipment: Shipment,
  counts: (line: Shipment["lines"][number]) => boolean = (line) => line.picked > 0,
  value: Money | null = null,
): Sending {
  const { wishes, shipTo } = shipment
  const billing = billingOf(shipment)
  return {
    shipTo,
    promisedOn: shipment.promisedOn,
    ...shipment.leaving,
    dangerous: shipment.lines.filter(counts).flatMap((line) => line.dangerous ?? []),
    categories: categoriesOf(
      shipment.lines.filter(counts).map((line) => line.category),
      [
        ...(shipment.customs.receiverLicence ? (["receiver-licence"] as const) : []),
        ...(shipment.customs.declaresKind ? (["shipper-declaration"] as const) : []),
      ],
    ),
    options: wishes.options,
    value,
    distance: wayBetween({ country: warehouse.country, postalCode: warehouse.postalCode }, shipTo),
    payer: payerOf(billing.terms),
    account: billing.account,
    dutiesPayer: shipTo.country === warehouse.country ? null : wishes.dutiesPayer,
    chosenServiceId: shipment.chosenServiceId,
    settledService: settingOf(shipment.settled, "service"),
    allowed: shipment.allowed,
  }
}
