import type { Strokes } from "../signature/index.ts"

/** Who took goods over, as it stands on papers; all text ready to print, empty where it is not known. */
export interface DriverOnPaper {
  readonly name: string
  readonly strokes: Strokes
  /** Handling units that he counted, and why there are others than we have. */
  readonly units: string
  readonly reason: string
  readonly seal: string
  readonly trailer: string
  readonly arrived: string
  readonly departed: string
}

/** The stops of a round of our own vehicle in their order; all text ready to print. */
export interface RoundSheetModel {
  readonly number: string
  readonly door: string
  readonly day: string
  readonly miles: string
  readonly stops: readonly {
    readonly position: number
    readonly lines: readonly string[]
    readonly packages: readonly string[]
    readonly lb: string
  }[]
}

/** A receipt of goods that somebody fetched; all text ready to print. */
export interface PickupReceiptModel {
  readonly number: string
  readonly shipper: readonly string[]
  readonly receiver: readonly string[]
  readonly orders: readonly string[]
  readonly at: string
  readonly by: string
  readonly name: string
  /** How it was made sure who he is. */
  readonly identity: string
  readonly note: string
  readonly strokes: Strokes
  readonly packages: readonly {
    readonly name: string
    readonly sscc: string
    readonly lb: string
    readonly contents: string
  }[]
}
