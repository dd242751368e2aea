import type { Decimal } from "decimal.js"
import type { Address } from "../address/index.ts"
import type { LocalDate } from "../calendar/index.ts"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import type { Mass, Size } from "../units/index.ts"
import type { BilledWeight } from "./billedWeight.ts"
import type { FreightClass } from "./density.ts"
import type { Tariff } from "./tariff.ts"

export interface RatedPackage {
  readonly number: number
  readonly weight: Mass
  readonly size: Size
  /** Code of its packaging, by which a carrier's own box is known. */
  readonly packaging?: string | null
  /** A pallet with what stands on it, or a parcel that is handled by hand. */
  readonly handling?: "parcel" | "pallet"
  /** The class that the goods have by themselves; without it the density decides. */
  readonly freightClass?: FreightClass | null
}

export interface RateRequest {
  readonly shipTo: Address
  readonly packages: readonly RatedPackage[]
  readonly shipDate: LocalDate
  /** Days on which goods are neither moved nor delivered: the carrier's own, and public holidays at the far end. */
  readonly holidays: ReadonlySet<LocalDate>
  /** UN numbers of dangerous goods inside. */
  readonly dangerous?: readonly string[]
  /** The receiver has no dock: the driver lowers the pallet to the ground. */
  readonly liftgate?: boolean
}

/** One charge line; `package` is null for a charge on the whole shipment. List is before discount, contract after. */
export interface Charge {
  readonly code: string
  readonly package: number | null
  readonly list: Money
  readonly contract: Money
  readonly why: Reason
}

export interface Rate {
  readonly zone: string
  readonly billed: readonly (BilledWeight & { package: number; freightClass?: FreightClass })[]
  readonly charges: readonly Charge[]
  readonly list: Money
  readonly contract: Money
  readonly arrival: { date: LocalDate; time: string; days: number }
}

/** An address that nobody has confirmed as a business is rated, and told to the carrier, as residential. */
export const ratedAsResidential = (address: Address): boolean => address.kind !== "business"

/** `amount × (1 − share)`, rounded half up to the minor unit. */
export const lessShare = (amount: Money, share: string): Money =>
  roundMoney({ ...amount, amount: amount.amount.sub(amount.amount.mul(share)) })

/** The fuel charge on the charges that the tariff names, or null where it has none. */
export function fuelCharge(tariff: Tariff, charges: readonly Charge[]): Charge | null {
  if (Number(tariff.fuel.share) === 0) return null
  const named = charges.filter((charge) => tariff.fuel.on.includes(charge.code))
  const on = (side: "list" | "contract") => {
    const sum = sumMoney(
      named.map((charge) => charge[side]),
      tariff.currency,
    )
    return { sum, fuel: roundMoney({ ...sum, amount: sum.amount.mul(tariff.fuel.share) }) }
  }
  const contract = on("contract")
  const why = reason("charge.fuel", { share: percent(tariff.fuel.share), of: contract.sum.amount.toFixed(2) })
  return { code: "fuel", package: null, list: on("list").fuel, contract: contract.fuel, why }
}

export const percent = (share: string): string => `${Number((Number(share) * 100).toFixed(4))} %`

/** Money of a tariff's figure, rounded as a charge line is. */
export const listPrice = (figure: Decimal.Value, currency: string): Money => roundMoney(money(figure, currency))
