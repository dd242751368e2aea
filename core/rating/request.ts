import type { Address } from "../address/index.ts"
import type { LocalDate } from "../calendar/index.ts"
import type { Money } from "../money/index.ts"
import type { CategoryFacts, OptionCode, Place } from "../tariff/index.ts"
import type { Length, Mass, Size } from "../units/index.ts"
import type { FreightClass } from "./density.ts"

/** A package or pallet as a carrier sees it. */
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
  /** Whether another may stand on it; not said: no. */
  readonly stackable?: boolean
  /** Net mass of dry ice inside. */
  readonly dryIce?: Mass | null
  /** The value that the carrier is told for it, in the tariff's currency; null: none is declared. */
  readonly declared?: Money | null
}

export interface DangerousGood {
  readonly unNumber: string
  /** Class or division, such as `3` or `5.1`. */
  readonly hazard: string
  /** Excepted from most rules on the road: a limited quantity, or small cells. */
  readonly limitedQuantity: boolean
  /** By air it is not. */
  readonly regulatedByAir?: boolean
}

export type Payer = "shipper" | "receiver" | "third-party"

export interface RateRequest {
  readonly from: Place
  readonly shipTo: Address
  /** The way between them; null where it is not known. */
  readonly distance?: Length | null
  readonly packages: readonly RatedPackage[]
  readonly shipDate: LocalDate
  /** The day on which the label is made, where that is known: no day before it, and none too far ahead. */
  readonly today?: LocalDate | null
  /** Time of that day, at the sender's place: a service's cut-off is held against it. */
  readonly at?: string | null
  /** Days on which nothing moves at the far end, besides the carrier's own. */
  readonly holidays?: ReadonlySet<LocalDate>
  readonly dangerous?: readonly DangerousGood[]
  readonly categories?: CategoryFacts
  readonly options?: ReadonlySet<OptionCode>
  /** What the goods are worth, in the tariff's currency. */
  readonly value?: Money | null
  readonly payer?: Payer
  readonly dutiesPayer?: Payer | null
}

/** An address that nobody has confirmed as a business is rated, and told to the carrier, as residential. */
export const ratedAsResidential = (address: Pick<Address, "kind">): boolean => address.kind !== "business"
