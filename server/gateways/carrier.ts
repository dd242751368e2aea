import { coded, reason } from "core/refusal/index.ts"
import type { PayerTerms } from "core/rules/index.ts"
import type { CategoryFacts } from "core/tariff/index.ts"
import { z } from "zod"
import { connectionTrouble, reach } from "./reach.ts"

export interface BookingRequest {
  readonly account: string
  readonly service: string
  readonly shipDate: string
  readonly reference: string
  readonly sender: { readonly postalCode: string; readonly country: string; readonly lines: readonly string[] }
  readonly receiver: {
    readonly postalCode: string
    readonly state: string
    readonly country: string
    readonly lines: readonly string[]
    readonly residential: boolean
    /** What the driver should know. */
    readonly instructions: string
  }
  /** Where packages that can't be delivered go, where that is not the sender's place. */
  readonly returnTo: { readonly lines: readonly string[] } | null
  /** What is asked for besides carrying: codes of the carrier's published tariff. */
  readonly options: readonly string[]
  /** Where it is held for the receiver, where that is asked for. */
  readonly holdAt: string
  /** What the goods are worth, where that is known. */
  readonly value: string | null
  /** The way by road, where the tariff goes by it. */
  readonly distanceKm: string | null
  readonly dangerous: readonly {
    readonly unNumber: string
    readonly hazard: string
    readonly limitedQuantity: boolean
  }[]
  /** Who pays duties and taxes over a border, where it is said. */
  readonly dutiesPayer: string | null
  /** Who pays the freight, and on which account where that is not ours. */
  readonly billing: { readonly terms: PayerTerms; readonly account: string }
  /** For a shipment over a border. */
  readonly customs: null | {
    readonly incoterm: string
    readonly place: string
    readonly value: { readonly amount: string; readonly currency: string }
    readonly description: string
    readonly purpose: string
  }
  /** Categories of goods that the tariff treats apart, with what the shipment has for them. */
  readonly categories: CategoryFacts | null
  /** Papers that go as data. */
  readonly papers: readonly { readonly kind: string; readonly number: string; readonly data: unknown }[]
  /** The carrier's number that we gave from its range; empty: the carrier gives one. */
  readonly proNumber: string
  readonly packages: readonly {
    readonly number: number
    readonly sscc: string
    readonly handling: "parcel" | "pallet"
    readonly packaging: string | null
    readonly freightClass: string | null
    readonly weightLb: string
    readonly sizeIn: readonly [string, string, string]
    readonly stackable: boolean
    readonly dryIceKg: string | null
    readonly declared: string | null
  }[]
  readonly expectedCharge: { readonly amount: string; readonly currency: string }
}

const bookingSchema = z.object({
  key: z.string(),
  state: z.enum(["booked", "cancelled", "void"]),
  charge: z.object({ amount: z.string().regex(/^\d+\.\d{2}$/), currency: z.string().length(3) }),
  masterTrackingNumber: z.string().min(1).max(40),
  /** By which the carrier's counter prints the labels, where that was asked for. */
  counterCode: z
    .string()
    .regex(/^[\x21-\x7e]{1,60}$/)
    .optional(),
  /** When the carrier first saw a package of it, where it says so. */
  scannedAt: z.iso.datetime().optional(),
  packages: z.array(
    z.object({
      number: z.number().int(),
      trackingNumber: z.string().min(1).max(40),
      routingCode: z.string().min(1).max(40),
    }),
  ),
})
export type Booking = z.infer<typeof bookingSchema>

export type CarrierAnswer =
  | { readonly kind: "booked"; readonly booking: Booking }
  | { readonly kind: "refused"; readonly reason: string }
  | { readonly kind: "unknown" }

/** The carrier did not answer, or not in a way that says whether it booked. Ask again by the same key. */
export class CarrierUnreachable extends Error {}

/** A carrier's booking service. Every call may be made again with the same key and changes nothing the second time. */
export interface CarrierGateway {
  book(key: string, request: BookingRequest): Promise<CarrierAnswer>
  find(key: string): Promise<CarrierAnswer>
  cancel(key: string): Promise<void>
  /** Makes a booking void; a refusal says why the carrier does not. */
  makeVoid(key: string): Promise<{ readonly kind: "void" } | { readonly kind: "refused"; readonly reason: string }>
  /** All that the carrier has on its books for us. */
  ledger(): Promise<readonly LedgerEntry[]>
}

const ledgerSchema = z.array(
  z.object({
    key: z.string(),
    state: z.enum(["booked", "cancelled", "void"]),
    charge: z.object({ amount: z.string(), currency: z.string() }),
    masterTrackingNumber: z.string(),
    packages: z.array(z.object({ trackingNumber: z.string() })),
  }),
)
export type LedgerEntry = z.infer<typeof ledgerSchema>[number]

/** Most bytes of an answer; a ledger of years is long. */
const mostLedger = 64 * 1024 * 1024

interface Called {
  readonly status: number
  readonly body: unknown
}
export type CarrierCall = (method: string, path: string, body?: unknown) => Promise<Called>

/** Asks a carrier's services below an address, with JSON. Throws CarrierUnreachable. */
export const carrierCall =
  (baseUrl: string, timeLimitMs: number): CarrierCall =>
  async (method, path, body) => {
    try {
      const response = await reach(`${baseUrl}/v1/${path}`, {
        method,
        headers: { "content-type": "application/json", accept: "application/json" },
        body: body === undefined ? undefined : JSON.stringify(body),
        timeLimitMs,
        most: mostLedger,
      })
      return { status: response.status, body: response.json() }
    } catch (error) {
      throw new CarrierUnreachable(connectionTrouble(error))
    }
  }

/** What a carrier says of why he does not do what he was asked for. */
export const reasonOf = (body: unknown): string =>
  z.object({ reason: z.string() }).catch({ reason: "no reason given" }).parse(body).reason

/** The carrier answered with what does not say whether he did it. */
export const unclear = (status: number): CarrierUnreachable =>
  new CarrierUnreachable(coded(reason("reach.status", { status })))

/** A carrier reached over HTTP: `PUT`, `GET` and `DELETE /v1/bookings/{key}`, `…/void` and `GET /v1/ledger`, with JSON. */
export function httpCarrier(baseUrl: string, timeLimitMs = 4_000): CarrierGateway {
  const call = carrierCall(baseUrl, timeLimitMs)
  const read = ({ status, body }: { status: number; body: unknown }): CarrierAnswer => {
    if (status === 404) return { kind: "unknown" }
    if (status === 410) return { kind: "refused", reason: "cancelled" }
    if (status === 422) return { kind: "refused", reason: reasonOf(body) }
    const booking = bookingSchema.safeParse(body)
    if ((status !== 200 && status !== 201) || !booking.success) throw unclear(status)
    return booking.data.state === "booked"
      ? { kind: "booked", booking: booking.data }
      : { kind: "refused", reason: booking.data.state }
  }
  return {
    book: async (key, request) => read(await call("PUT", `bookings/${key}`, request)),
    find: async (key) => read(await call("GET", `bookings/${key}`)),
    cancel: async (key) => {
      const { status } = await call("DELETE", `bookings/${key}`)
      if (status >= 300) throw unclear(status)
    },
    makeVoid: async (key) => {
      const { status, body } = await call("PUT", `bookings/${key}/void`)
      if (status === 200) return { kind: "void" }
      if (status === 422 || status === 404) return { kind: "refused", reason: reasonOf(body) }
      throw unclear(status)
    },
    ledger: async () => {
      const { status, body } = await call("GET", "ledger")
      const entries = ledgerSchema.safeParse(body)
      if (status !== 200 || !entries.success) throw unclear(status)
      return entries.data
    },
  }
}
