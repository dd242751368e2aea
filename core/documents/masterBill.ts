import { type Mass, sumMass } from "../units/index.ts"
import type { DriverOnPaper } from "./driver.ts"

/** A bill of lading of one shipment as a master bill lists it. */
export interface UnderlyingBill {
  readonly number: string
  readonly proNumber: string
  readonly consignee: string
  readonly place: string
  readonly units: number
  readonly pieces: number
  readonly hazardous: boolean
  readonly weight: Mass
}

/** One bill over the shipments of one truck, with the underlying ones listed; the fields are common practice. */
export interface MasterBillModel {
  readonly number: string
  readonly carrier: string
  readonly door: string
  readonly shipDate: string
  readonly shipper: readonly string[]
  readonly bills: readonly UnderlyingBill[]
  readonly units: number
  readonly pieces: number
  readonly weight: Mass
  readonly emergencyPhone: string
  readonly driver: DriverOnPaper | null
}

/** A master bill with its sums, the bills in the order of their numbers. */
export const masterBill = (
  head: Omit<MasterBillModel, "bills" | "units" | "pieces" | "weight">,
  bills: readonly UnderlyingBill[],
): MasterBillModel => ({
  ...head,
  bills: [...bills].sort((a, b) => a.number.localeCompare(b.number, "en", { numeric: true })),
  units: bills.reduce((sum, one) => sum + one.units, 0),
  pieces: bills.reduce((sum, one) => sum + one.pieces, 0),
  weight: sumMass(bills.map((one) => one.weight)),
})
