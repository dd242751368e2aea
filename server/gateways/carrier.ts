import { z } from "zod"

export interface BookingRequest {
  readonly account: string
  readonly service: string
  readonly shipDate: string
  readonly reference: string
  readonly sender: { readonly postalCode: string; readonly lines: readonly string[] }
  readonly receiver: {
    readonly postalCode: string
    readonly state: string
    readonly country: string
    readonly lines: readonly string[]
    readonly residential: boolean
  }
  readonly packages: readonly {
    readonly number: number
    readonly sscc: string
    readonly weightLb: string
    readonly sizeIn: readonly [string, string, string]
  }[]
  readonly expectedCharge: { readonly amount: string; readonly currency: string }
}

const bookingSchema = z.object({
  key: z.string(),
  state: z.enum(["booked", "cancelled"]),
  charge: z.object({ amount: z.string().regex(/^\d+\.\d{2}$/), currency: z.string().length(3) }),
  masterTrackingNumber: z.string().min(1).max(40),
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
}

/** A carrier reached over HTTP: `PUT`, `GET` and `DELETE /v1/bookings/{key}` with JSON. */
export function httpCarrier(baseUrl: string, timeLimitMs = 4_000): CarrierGateway {
  const call = async (method: string, key: string, body?: unknown): Promise<{ status: number; body: unknown }> => {
    try {
      const response = await fetch(`${baseUrl}/v1/bookings/${key}`, {
        method,
        headers: { "content-type": "application/json", accept: "application/json" },
        body: body === undefined ? undefined : JSON.stringify(body),
        signal: AbortSignal.timeout(timeLimitMs),
      })
      return { status: response.status, body: await response.json() }
    } catch (error) {
      throw new CarrierUnreachable(`${method} booking: ${(error as Error).name}`)
    }
  }
  const read = ({ status, body }: { status: number; body: unknown }): CarrierAnswer => {
    if (status === 404) return { kind: "unknown" }
    if (status === 410) return { kind: "refused", reason: "cancelled" }
    if (status === 422)
      return {
        kind: "refused",
        reason: z.object({ reason: z.string() }).catch({ reason: "no reason given" }).parse(body).reason,
      }
    const booking = bookingSchema.safeParse(body)
    if ((status !== 200 && status !== 201) || !booking.success)
      throw new CarrierUnreachable(`booking answered ${status} with a body that can't be read`)
    return booking.data.state === "cancelled"
      ? { kind: "refused", reason: "cancelled" }
      : { kind: "booked", booking: booking.data }
  }
  return {
    book: async (key, request) => read(await call("PUT", key, request)),
    find: async (key) => read(await call("GET", key)),
    cancel: async (key) => {
      const { status } = await call("DELETE", key)
      if (status >= 300) throw new CarrierUnreachable(`cancelling answered ${status}`)
    },
  }
}
