import type { Service } from "../../tariff/index.ts"
import type { Amount, Amounts } from "./amounts.ts"
import { counted, decimalsOf, scaleOf } from "./exact.ts"
import type { Counted, Measuring } from "./measuring.ts"
import type { CountedPackage } from "./packages.ts"

/** A base charge: for the shipment, or where it is charged for each package, for the one at the same place. */
export interface BaseCharges {
  readonly charges: readonly Amount[]
  readonly perPackage: boolean
  /** The weight that was paid for, in parts of `weightScale` of the service's unit. */
  readonly weight: number
  readonly weightScale: number
}

/** The packages of a shipment as a service bills them. */
export interface Billed {
  readonly packages: readonly Counted[]
  /** Of all packages as they are, in 10⁻¹⁰ kg. */
  readonly mass: number
}

/** Prices of a zone; null where the tariff has none for such packages. */
export type ZonePrice = (billed: Billed) => BaseCharges | null

export interface Compiling {
  readonly service: Service
  readonly zone: string
  readonly scale: number
  readonly measuring: Measuring
  readonly amounts: Amounts
  /** From a list amount as a line. */
  readonly charge: (list: number) => Amount
}

/** Of all packages together, what each has of something. */
export const sumOf = (some: readonly Counted[], of: (one: Counted) => number): number =>
  some.reduce((sum, one) => sum + of(one), 0)

/** The last break whose least weight is reached; the first where none is. */
export const breakIn = (breaks: readonly number[], weight: number): number =>
  Math.max(
    0,
    breaks.findLastIndex((least) => weight >= least),
  )

/** A volume in cubic nanometers: too large for a double to hold exactly. */
export const volumeOf = ({ edges }: CountedPackage): bigint => BigInt(edges[0]) * BigInt(edges[1]) * BigInt(edges[2])

/** A figure as a fraction. */
export const fraction = (figure: string): readonly [bigint, bigint] => {
  const own = scaleOf(decimalsOf(figure))
  return [BigInt(counted(figure, own)), BigInt(own)]
}
