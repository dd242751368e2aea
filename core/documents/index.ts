import { type Mass, massIn, sumMass } from "../units/index.ts"
import type { DriverOnPaper } from "./driver.ts"

export * from "./driver.ts"
export * from "./floor.ts"
export * from "./labelForms.ts"
export * from "./lading.ts"
export * from "./logistic.ts"
export * from "./masterBill.ts"

/** What stands on a parcel label of 4 × 6 in; all text ready to print. */
export interface LabelModel {
  /** The language that its words are in; English where it is not said. */
  readonly language?: string
  readonly carrier: string
  readonly service: string
  readonly sender: readonly string[]
  readonly receiver: readonly string[]
  readonly shipDate: string
  readonly weight: string
  readonly size: string
  /** `1 of 2`. */
  readonly piece: string
  readonly references: readonly { readonly name: string; readonly text: string }[]
  /** What the driver must do and know, each by itself: options that were bought, where to hold it, gate and hours. */
  readonly driver: readonly string[]
  readonly routingCode: string
  readonly trackingNumber: string
  /** The number under which the carrier knows all packages of the shipment, where there are several. */
  readonly master?: string
  readonly sscc: string
  readonly packageName: string
  /** What stands where the SSCC would: of a label that has none, such as one for the way back. */
  readonly instead?: string
  /** What stands across it, where it is none to ship with. */
  readonly test?: string
}

export interface ManifestRow {
  readonly package: string
  /** Its order's number at the source. */
  readonly order: string
  readonly trackingNumber: string
  readonly service: string
  readonly receiver: string
  readonly place: string
  readonly weight: Mass
}

/** What is handed over on an account: a row per package, totals, and a number that is its barcode. */
export interface ManifestModel {
  /** Of one form for all packages a consignment number, GS1 AI 401. */
  readonly number: string
  /** Its barcode stands for all packages, so that the driver scans none of them. */
  readonly one: boolean
  readonly carrier: string
  readonly account: string
  /** Null: all services of the account. */
  readonly service: string | null
  /** It is for what came after the others of its truck. */
  readonly supplement: boolean
  readonly door: string
  readonly sender: readonly string[]
  readonly closedAt: string
  readonly closedBy: string
  /** The carrier's number of the collection that was booked; empty: none was. */
  readonly booking: string
  /** Null until he has come. */
  readonly driver: DriverOnPaper | null
  readonly rows: readonly ManifestRow[]
  readonly totals: readonly { readonly service: string; readonly packages: number; readonly weight: Mass }[]
  readonly packages: number
  readonly weight: Mass
}

/** A manifest with its totals by service and over all, the rows in the order of their package names. */
export function manifest(
  head: Omit<ManifestModel, "rows" | "totals" | "packages" | "weight">,
  rows: readonly ManifestRow[],
): ManifestModel {
  const services = [...new Set(rows.map((row) => row.service))].sort()
  return {
    ...head,
    rows: [...rows].sort((a, b) => a.package.localeCompare(b.package, "en", { numeric: true })),
    totals: services.map((service) => {
      const own = rows.filter((row) => row.service === service)
      return { service, packages: own.length, weight: sumMass(own.map((row) => row.weight)) }
    }),
    packages: rows.length,
    weight: sumMass(rows.map((row) => row.weight)),
  }
}

/** `12.4 lb` with one decimal always, for columns. */
export const poundsColumn = (value: Mass): string => massIn(value, "lb").toFixed(1)
