import type { Address } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import type { CustomsDetails, CustomsFacts, LineCustoms, Terms } from "core/customs/index.ts"
import type { DangerousFacts } from "core/dangerous/index.ts"
import type { Lading } from "core/documents/index.ts"
import type { CollectionId, DocumentId, LineId, OrderId, ServiceId, WarehouseId } from "core/ids/index.ts"
import type { Money } from "core/money/index.ts"
import type { PackageState } from "core/orders/index.ts"
import type { Content, KeepTogether, OfLot, Packed } from "core/packing/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import type { DangerousGood, FreightClass, Wishes } from "core/rating/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Settled } from "core/rules/index.ts"
import type { GoodsCategory } from "core/tariff/index.ts"
import type { Mass } from "core/units/index.ts"
import type { Party } from "../orders/parties.ts"
import type { CataloguePackaging } from "../packaging/catalog.ts"
import type { Leaving } from "../plan/shipDate.ts"

export interface ShipmentLine {
  readonly id: number
  /** Of several orders in one shipment the one that it belongs to. */
  readonly orderId: OrderId
  readonly letter: string
  readonly sku: string
  readonly description: string
  readonly levels: readonly ItemLevel[]
  readonly ordered: number
  readonly picked: number
  readonly packed: number
  readonly bins: readonly string[]
  readonly lots: readonly string[]
  /** What was picked of each lot, those that expire first first. */
  readonly lotsPicked: readonly OfLot<{ readonly id: number; readonly code: string }>[]
  /** One base unit, for weights and drawings. */
  readonly piece: Content
  readonly dangerous: DangerousGood | null
  /** What papers of dangerous goods say of it; null for goods that are none. */
  readonly hazard: DangerousFacts | null
  readonly category: GoodsCategory | null
  /** Number in the classification of freight; empty: none. */
  readonly classItem: string
  /** Net mass of one base unit for customs. */
  readonly unitNet: Mass | null
  /** What was said of this line for customs otherwise than of its item. */
  readonly said: LineCustoms
  readonly freightClass: FreightClass | null
  readonly customs: CustomsFacts
  /** What one base unit is worth: by the order's price, or where that is in another currency, by the item's value. */
  readonly worth: Money
}

export interface ShipmentPackage extends Packed {
  readonly id: number
  readonly number: number
  readonly packaging: string | null
  readonly kind: CataloguePackaging["kind"]
  /** Number of the pallet that it stands on. */
  readonly on: number | null
  readonly state: PackageState
  readonly sizeByHand: boolean
  readonly sscc: string | null
  readonly tracking: string | null
  readonly labelDocumentId: DocumentId | null
  readonly calculated: Mass
  readonly actual: Mass
  readonly flaws: readonly Reason[]
  /** Flaws that the lead let pass, with why and who. */
  readonly overridden: readonly Override[]
  readonly lineIds: readonly LineId[]
  /** From the catalog, of a size of its own, or the goods' own carton. */
  readonly origin: "catalogue" | "one-off" | "own"
  /** What is to go into it by the suggestion, by line's id; empty: no plan. */
  readonly planned: Readonly<Record<string, number>>
  /** Pieces in it that no scan confirmed. */
  readonly unverified: number
}

export interface ChargedByHand {
  readonly amount: string
  readonly why: string
  readonly actor: string
  /** Code of the service that it stands for, such as the one that was quoted; not said: whatever it is sent with. */
  readonly service?: string
}

/** A flaw that was let pass. */
export interface Override {
  readonly key: string
  readonly flaw: Reason
  readonly why: string
  readonly actor: string
  /** What was counted in the package, where that is why it may pass. */
  readonly counted?: string
}

/** What tells a flaw from others of the same package; a figure that changes makes it another flaw. */
export const flawKey = (flaw: Reason): string => `${flaw.code} ${Object.values(flaw.values).join(" ")}`

export interface Shipment {
  readonly id: number
  /** The order that leads; of a shipment of one order that order. */
  readonly orderId: OrderId
  /** All its orders, the leading one first. */
  readonly members: readonly {
    readonly id: number
    readonly orderNumber: string
    /** What lines of the same order are worth that are in other parts of it. */
    readonly elsewhere: readonly Money[]
  }[]
  readonly warehouseId: WarehouseId
  /** What the warehouse wants in one package where it can be. */
  readonly keepTogether: KeepTogether
  readonly orderNumber: string
  readonly sourceNumber: string
  readonly poNumber: string
  readonly customer: string
  /** Code of the customer; empty where it is none of ours. */
  readonly customerCode: string
  /** Language of the customer's papers. */
  readonly language: string
  readonly notes: string
  readonly promisedOn: LocalDate | null
  /** The day from which it may leave, and the truck that a person chose. */
  readonly leaving: Leaving
  readonly shipTo: Address
  /** Who is shown as sender on labels and slips where it is not us, and where the packages return to. */
  readonly sender: Party | null
  readonly returnTo: Party | null
  /** References that are printed on the label. */
  readonly references: readonly { readonly name: string; readonly value: string }[]
  /** What the driver should know, such as a gate or hours. */
  readonly delivery: string
  readonly terms: Terms
  /** What is said of the whole order for customs. */
  readonly customs: CustomsDetails
  /** What its bill of lading says besides. */
  readonly lading: Lading
  /** Currency of the order, which its invoice is in. */
  readonly orderCurrency: string
  /** What the customer asked to be sent with, in the source's words, and paid for it. */
  readonly serviceAsked: string
  readonly freightPaid: string | null
  /** What he is charged, where somebody set it by hand. */
  readonly chargedByHand: ChargedByHand | null
  /** What is asked besides carrying, and who pays. */
  readonly wishes: Wishes
  /** Of its order: the service that a person chose in the plan. */
  readonly chosenServiceId: ServiceId | null
  /** What the order is sent with, and who said so. */
  readonly settled: Settled
  /** Services that the customer allows; none named: all. */
  readonly allowed: readonly string[]
  readonly state: "open" | "buying" | "bought" | "voiding" | "void"
  readonly version: number
  readonly serviceId: ServiceId | null
  readonly collectionId: CollectionId | null
  readonly masterTracking: string | null
  readonly currency: string | null
  readonly contract: string | null
  readonly arrivesOn: string | null
  readonly trouble: Reason | null
  readonly lines: readonly ShipmentLine[]
  readonly packages: readonly ShipmentPackage[]
}
