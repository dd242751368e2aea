import type { ClosingWay } from "core/tariff/index.ts"
import { z } from "zod"
import { carrierCall, reasonOf, unclear } from "./carrier.ts"

/** What was handed over, as a carrier is told it. */
export interface ClosingRequest {
  readonly account: string
  readonly number: string
  readonly way: ClosingWay
  /** Null: all services. */
  readonly service: string | null
  readonly closedOn: string
  readonly pieces: number
  readonly weightLb: string
  readonly packages: readonly { readonly trackingNumber: string }[]
}

export type ClosingAnswer =
  | { readonly kind: "taken"; readonly number: string }
  | { readonly kind: "refused"; readonly reason: string }

/** A collection, as a carrier is asked for it. A later revision under the same key changes it. */
export interface CollectionRequest {
  readonly account: string
  /** Day and time at our place when it was asked for. */
  readonly askedOn: string
  readonly askedAt: string
  readonly revision: number
  readonly day: string
  readonly ready: string
  readonly latest: string
  readonly pieces: number
  readonly pallets: number
  readonly weightLb: string
  readonly place: string
  readonly address: readonly string[]
  readonly contact: string
  readonly phone: string
  readonly instructions: string
}

export type CollectionAnswer =
  | {
      readonly kind: "booked"
      readonly number: string
      readonly revision: number
      readonly fee: { readonly amount: string; readonly currency: string }
    }
  | { readonly kind: "cancelled" }
  | { readonly kind: "refused"; readonly reason: string }

/** A carrier's service for what is handed over. Every call may be made again with the same key and changes nothing then. */
export interface CarrierDock {
  close(key: string, request: ClosingRequest): Promise<ClosingAnswer>
  /** What became of a form; null where the carrier knows nothing of it. */
  findClosing(key: string): Promise<ClosingAnswer | null>
  /** Books a collection, or changes it. */
  collect(key: string, request: CollectionRequest): Promise<CollectionAnswer>
  /** What became of a collection; null where the carrier knows nothing of it. */
  findCollection(key: string): Promise<CollectionAnswer | null>
  /** Cancels a collection; one that he has not heard of yet is never booked. */
  cancelCollection(key: string): Promise<void>
}

const closingSchema = z.object({ key: z.string(), number: z.string().regex(/^[\x21-\x7e]{1,60}$/) })

const collectionSchema = z.object({
  key: z.string(),
  state: z.enum(["booked", "cancelled"]),
  number: z.string().regex(/^[\x21-\x7e]{1,60}$/),
  revision: z.number().int(),
  fee: z.object({ amount: z.string().regex(/^\d{1,9}\.\d{2}$/), currency: z.string().length(3) }),
})

/**
 * A carrier reached over HTTP: `PUT` and `GET /v1/closings/{key}`, `PUT`, `GET` and `DELETE /v1/collections/{key}`, with JSON. Throws CarrierUnreachable.
 */
export function httpCarrierDock(baseUrl: string, timeLimitMs = 4_000): CarrierDock {
  const call = carrierCall(baseUrl, timeLimitMs)
  const taken = (status: number, body: unknown): ClosingAnswer => {
    const read = closingSchema.safeParse(body)
    if ((status !== 200 && status !== 201) || !read.success) throw unclear(status)
    return { kind: "taken", number: read.data.number }
  }
  const booked = (status: number, body: unknown): CollectionAnswer => {
    const read = collectionSchema.safeParse(body)
    if ((status !== 200 && status !== 201) || !read.success) throw unclear(status)
    const { state, number, revision, fee } = read.data
    return state === "cancelled" ? { kind: "cancelled" } : { kind: "booked", number, revision, fee }
  }
  return {
    close: async (key, request) => {
      const { status, body } = await call("PUT", `closings/${key}`, request)
      return status === 422 ? { kind: "refused", reason: reasonOf(body) } : taken(status, body)
    },
    collect: async (key, request) => {
      const { status, body } = await call("PUT", `collections/${key}`, request)
      return status === 422 ? { kind: "refused", reason: reasonOf(body) } : booked(status, body)
    },
    findCollection: async (key) => {
      const { status, body } = await call("GET", `collections/${key}`)
      return status === 404 ? null : booked(status, body)
    },
    cancelCollection: async (key) => {
      const { status } = await call("DELETE", `collections/${key}`)
      if (status >= 300) throw unclear(status)
    },
    findClosing: async (key) => {
      const { status, body } = await call("GET", `closings/${key}`)
      return status === 404 ? null : taken(status, body)
    },
  }
}
