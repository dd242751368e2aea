import type { FreightClass } from "../rating/index.ts"
import type { Company } from "./together.ts"

/** Pieces to be packed, as a packer handles them. Edges in millimetres, weights in kilograms. */
export interface PackPiece extends Company {
  /** Key of what it is: a line's, or that of whole cases of a line (`keyOf`). */
  readonly key: string
  readonly length: number
  readonly width: number
  readonly height: number
  readonly weight: number
  /** Stands on its base only. */
  readonly upright: boolean
  /** Kilograms that may stand on one piece; null: no limit; 0: nothing may. */
  readonly loadLimit: number | null
}

/** A number of equal pieces. */
export interface PackLoad extends PackPiece {
  readonly quantity: number
  /** Ships in its own carton: each piece is a package. */
  readonly ownCarton: boolean
  /** May be sent as it is, without a carton around it, where that costs less: a whole case. */
  readonly asIs?: boolean
  /** What is to stay in one package where it can, such as a line or a lot; nothing: it need not. */
  readonly together?: string | null
  /** Class of the goods as freight; null or nothing: their density decides. */
  readonly freightClass?: FreightClass | null
  /** The value of a piece that the carrier is told, in the currency of the ways; nothing: none is declared. */
  readonly declared?: number
}

/** The inside of a package. */
export interface PackBox {
  readonly code: string
  readonly length: number
  readonly width: number
  readonly height: number
  readonly maxLoad: number
}

/** A box that may be used. Edges in millimetres, weights in kilograms. */
export interface UsableBox extends PackBox {
  readonly outer: { readonly length: number; readonly width: number; readonly height: number }
  readonly tare: number
  /** How many there are; null: enough. */
  readonly stock: number | null
  /** What one costs, in the currency that prices are in. */
  readonly cost: number
  /** The carrier whose own box it is, and with whom alone it goes; null: ours. */
  readonly carrier: string | null
  /** It is no packaging but the very piece that is sent as it is. */
  readonly asIs?: boolean
}

/** Key of pieces of a line; of whole cases with the pieces in each. */
export const keyOf = (line: number | string, pieces = 1): string => (pieces === 1 ? String(line) : `${line}x${pieces}`)
/** The line that a key is of. */
export const lineOfKey = (key: string): string => key.split("x")[0] as string
/** How many pieces of the line one of a key is. */
export const piecesOfKey = (key: string): number => Number(key.split("x")[1] ?? 1)

/** Where a piece lies: its lowest corner from the box's corner, and its edges as it is turned. */
export interface PlacedPiece {
  readonly key: string
  readonly x: number
  readonly y: number
  readonly z: number
  readonly length: number
  readonly width: number
  readonly height: number
}

/** How much of a piece's base must stand on something (common practice, no published source). */
export const leastSupport = 0.8
