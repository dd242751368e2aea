import { z } from "zod"
import { carrierCall, unclear } from "./carrier.ts"

/** Events in one answer, at most. */
const mostAtOnce = 1_000
const pageSchema = z.object({ events: z.array(z.unknown()).max(mostAtOnce), next: z.string().max(80) })
export type EventsPage = z.infer<typeof pageSchema>

/** Asks a carrier for events after a cursor, oldest first. What an event is, is for its reader to judge. */
export interface CarrierEvents {
  after(cursor: string, now: Date): Promise<EventsPage>
  /** Gives the carrier another address for what he can't deliver; a refusal says why he does not take it. */
  readdress(
    trackingNumber: string,
    key: string,
    address: { readonly lines: readonly string[]; readonly postalCode: string; readonly country: string },
  ): Promise<{ readonly kind: "taken" } | { readonly kind: "refused"; readonly reason: string }>
}

const refusalSchema = z.object({ reason: z.string() }).catch({ reason: "no reason given" })

export function httpCarrierEvents(baseUrl: string, timeLimitMs = 8_000): CarrierEvents {
  const call = carrierCall(baseUrl, timeLimitMs)
  return {
    after: async (cursor, now) => {
      const { status, body } = await call(
        "GET",
        `events?after=${encodeURIComponent(cursor)}&until=${encodeURIComponent(now.toISOString())}`,
      )
      const page = pageSchema.safeParse(body)
      if (status !== 200 || !page.success) throw unclear(status)
      return page.data
    },
    readdress: async (trackingNumber, key, address) => {
      const { status, body } = await call("PUT", `addresses/${encodeURIComponent(trackingNumber)}/${key}`, address)
      if (status === 200 || status === 201) return { kind: "taken" }
      if (status === 422 || status === 404) return { kind: "refused", reason: refusalSchema.parse(body).reason }
      throw unclear(status)
    },
  }
}
