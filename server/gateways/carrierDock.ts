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

/** A carrier's service for what is handed over. Every call may be made again with the same key and changes nothing then. */
export interface CarrierDock {
  close(key: string, request: ClosingRequest): Promise<ClosingAnswer>
  /** What became of a form; null where the carrier knows nothing of it. */
  findClosing(key: string): Promise<ClosingAnswer | null>
}

const closingSchema = z.object({ key: z.string(), number: z.string().regex(/^[\x21-\x7e]{1,60}$/) })

/** A carrier reached over HTTP: `PUT` and `GET /v1/closings/{key}`, with JSON. Throws CarrierUnreachable. */
export function httpCarrierDock(baseUrl: string, timeLimitMs = 4_000): CarrierDock {
  const call = carrierCall(baseUrl, timeLimitMs)
  const taken = (status: number, body: unknown): ClosingAnswer => {
    const read = closingSchema.safeParse(body)
    if ((status !== 200 && status !== 201) || !read.success) throw unclear(status)
    return { kind: "taken", number: read.data.number }
  }
  return {
    close: async (key, request) => {
      const { status, body } = await call("PUT", `closings/${key}`, request)
      return status === 422 ? { kind: "refused", reason: reasonOf(body) } : taken(status, body)
    },
    findClosing: async (key) => {
      const { status, body } = await call("GET", `closings/${key}`)
      return status === 404 ? null : taken(status, body)
    },
  }
}
