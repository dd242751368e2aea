import type { Decimal } from "decimal.js"
import type { Address } from "../address/index.ts"
import type { LocalDate } from "../calendar/index.ts"
import type { CustomsDetails, CustomsFacts, CustomsRole, DutyRate, ImportRule, Terms } from "../customs/index.ts"
import type { DangerousFacts } from "../dangerous/index.ts"
import type { Lading } from "../documents/lading.ts"
import type { ExchangeTable } from "../exchange/index.ts"
import type { LineId } from "../ids/index.ts"
import type { Money } from "../money/index.ts"
import type { PayerTerms } from "../rules/index.ts"
import type { ElectronicPaper, GoodsCategory, OptionCode, Service } from "../tariff/index.ts"
import type { Mass, Size } from "../units/index.ts"

import type { ShipperSettings } from "./shipper.ts"

/** A party as papers name it. */
export interface PaperParty extends Omit<Address, "kind"> {
  readonly taxNumber: string
  readonly eori: string
}

/** What of a line goes with the shipment, and what its item and its order say of it. */
export interface PaperLine extends CustomsFacts {
  readonly id: LineId
  readonly quantity: number
  /** Pieces of the same line in parts of the order before this one. */
  readonly before: number
  /** Net mass of one base unit; null where nobody has said. */
  readonly unitNet: Mass | null
  readonly dangerous: DangerousFacts | null
  /** Its number in the classification of freight; empty: none. */
  readonly itemNumber: string
  /** Category that tariffs treat apart, such as alcohol. */
  readonly category: GoodsCategory | null
}

export interface PaperPackage {
  readonly number: number
  /** Our name for it, such as `48217-1`. */
  readonly name: string
  readonly kind: "pallet" | "carton"
  /** Cartons and pieces on it or in it. */
  readonly pieces: number
  /** Number of the pallet that it stands on. */
  readonly on: number | null
  readonly gross: Mass
  readonly outer: Size
  readonly sscc: string
  readonly freightClass: string
  readonly contents: readonly { readonly line: LineId; readonly quantity: number }[]
}

/** The service that papers are made for, as its tariff says it. */
export interface PaperService {
  readonly code: string
  readonly carrierCode: string
  readonly carrier: string
  readonly name: string
  readonly mode: Service["mode"]
  readonly regime: "road" | "air"
  readonly postal: "letter" | "parcel" | null
  readonly electronic: readonly ElectronicPaper[]
  /** Kinds of handling: of pallets there is a bill of lading. */
  readonly handling: Service["goods"]["handling"]
}

/** What the shipper is known by. */
export interface ShipperFacts extends Omit<ShipperSettings, "taxNumber" | "eori"> {
  readonly party: PaperParty
}

/** Everything that papers of a shipment are worked out from. */
export interface PaperFacts {
  readonly orderNumber: string
  readonly sourceNumber: string
  readonly purchaseOrder: string
  readonly date: LocalDate
  readonly shipper: ShipperFacts
  readonly shipTo: Address
  readonly customs: CustomsDetails
  readonly parties: Readonly<Partial<Record<CustomsRole, PaperParty>>>
  readonly terms: Terms
  readonly currency: string
  readonly lines: readonly PaperLine[]
  readonly packages: readonly PaperPackage[]
  /** Null before any is chosen. */
  readonly service: PaperService | null
  readonly options: ReadonlySet<OptionCode>
  readonly dryIceKg: string | null
  readonly payer: PayerTerms
  /** Whose account is billed, where another pays. */
  readonly account: string
  /** What was bought besides carrying, in words. */
  readonly accessorials: readonly string[]
  readonly lading: Lading
  readonly warehouseCode: string
  /** Copies that the customer or a rule wants, by kind of paper. */
  readonly copies: Readonly<Partial<Record<string, number>>>
  /** The shares of the order's amounts that this part has; none where the order is not priced so. */
  readonly charges: Readonly<Record<"discount" | "packing" | "freight" | "insurance", Money>>
  /** A paper that is attached to the order, which may stand for the invoice. */
  readonly attached: boolean
  /** Words that say nothing of goods, besides the usual ones. */
  readonly vague: ReadonlySet<string>
  readonly exchange: ExchangeTable
  readonly importRules: readonly ImportRule[]
  readonly dutyRates: readonly DutyRate[]
  /** US dollars by code that leave with the same carrier and day for the same consignee. */
  readonly exportedAlso: readonly { readonly code: string; readonly usd: Decimal }[]
}

/** What tells which goods go how. */
export type GoodsFacts = Pick<PaperFacts, "lines" | "packages" | "service">

/** Whether a shipment crosses a border. */
export const abroad = ({ shipTo, shipper }: Pick<PaperFacts, "shipTo" | "shipper">): boolean =>
  shipTo.country !== shipper.party.country
