import type { LocalDate } from "../calendar/index.ts"
import { type Mass, type Size, sumMass } from "../units/index.ts"

/** A party of a ship notice. A GLN is thirteen digits by GS1; empty where none is known. */
export interface NoticeParty {
  readonly gln: string
  /** By which the other side knows it: for a customer its code with us. */
  readonly code: string
  readonly name: string
  readonly street: string
  readonly city: string
  readonly state: string
  readonly postalCode: string
  readonly country: string
}

/** Pieces of one order line in one package. */
export interface NoticeContent {
  /** Number of the line within the notice, from 1. */
  readonly line: number
  readonly quantity: number
  /** The lots of them, where every piece's lot is known; none: not known. */
  readonly lots: readonly { readonly code: string; readonly expiresOn: LocalDate | null; readonly quantity: number }[]
}

export interface NoticeLine {
  readonly line: number
  readonly sku: string
  /** GTIN of one piece; empty: it has none. */
  readonly gtin: string
  readonly description: string
  /** The customer's order that it is of, and ours. */
  readonly purchaseOrder: string
  readonly orderNumber: string
}

export interface NoticePackage {
  readonly name: string
  readonly sscc: string
  readonly kind: "pallet" | "carton"
  readonly tracking: string
  readonly weight: Mass
  readonly size: Size
  /** Name of the pallet that it stands on; null: it is handled by itself. */
  readonly on: string | null
  readonly loadedAt: Date | null
  readonly contents: readonly NoticeContent[]
}

/** What a customer is told of goods that have left: what a ship notice and the events of the way say alike. */
export interface ShipNotice {
  readonly number: string
  readonly shippedAt: Date
  readonly packedAt: Date
  readonly arrivesOn: LocalDate | null
  /** Zone of the warehouse, by the IANA database. */
  readonly zone: string
  readonly door: string
  readonly carrierCode: string
  readonly carrier: string
  readonly service: string
  /** The carrier's number of the whole, and the form that it left on. */
  readonly tracking: string
  readonly form: string
  readonly from: NoticeParty
  readonly buyer: NoticeParty
  readonly shipTo: NoticeParty
  readonly lines: readonly NoticeLine[]
  readonly packages: readonly NoticePackage[]
}

/** A package with what stands on it. */
export interface NoticeUnit {
  readonly unit: NoticePackage
  readonly on: readonly NoticePackage[]
}

/** The packages as they are handled: pallets with their cartons, cartons by themselves. */
export function noticeTree({ packages }: Pick<ShipNotice, "packages">): NoticeUnit[] {
  const children = new Map<string, NoticePackage[]>()
  for (const one of packages) if (one.on !== null) children.set(one.on, [...(children.get(one.on) ?? []), one])
  return packages.filter((one) => one.on === null).map((unit) => ({ unit, on: children.get(unit.name) ?? [] }))
}

/** What a notice comes to: handled packages, pieces, and their gross weight, which for a pallet holds its cartons. */
export function noticeTotals(notice: Pick<ShipNotice, "packages">): {
  readonly packages: number
  readonly pieces: number
  readonly weight: Mass
} {
  const units = notice.packages.filter((one) => one.on === null)
  return {
    packages: units.length,
    pieces: notice.packages.flatMap((one) => one.contents).reduce((sum, one) => sum + one.quantity, 0),
    weight: sumMass(units.map((one) => one.weight)),
  }
}
