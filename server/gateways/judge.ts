import { isPostalItemNumber } from "core/barcodes/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { Decimal } from "decimal.js"
import type { Booking, BookingRequest, CarrierGateway } from "./carrier.ts"

/** What is expected of a booking: its price, and what the carrier is known to do. */
export interface Expected {
  readonly carrier: { readonly name: string; readonly numbers: string; readonly tolerance: string | number }
  readonly amount: string | number
  readonly currency: string
  readonly request: BookingRequest
}

/** What a carrier's answer comes to: a booking that is as was asked for, or why it is none; `differs` was canceled there. */
export type Judged =
  | { readonly kind: "good"; readonly booking: Booking }
  | { readonly kind: "refused"; readonly why: Reason }
  | { readonly kind: "differs"; readonly why: Reason; readonly booking: Booking }

/**
 * Asks a carrier for a booking under a key, out or back, and judges its answer: never twice, since from the second try on
 * it is first asked what became of the key, and the carrier takes a key once. One that is not as was asked for is canceled
 * there. Throws CarrierUnreachable.
 */
export async function askBooking(
  gateway: CarrierGateway,
  key: string,
  tries: number,
  expected: Expected,
): Promise<Judged> {
  const { carrier, request } = expected
  const found = tries > 1 ? await gateway.find(key) : ({ kind: "unknown" } as const)
  const answer = found.kind === "unknown" ? await gateway.book(key, request) : found
  if (answer.kind !== "booked") {
    const why = answer.kind === "refused" ? answer.reason : "the carrier does not know the booking"
    return { kind: "refused", why: reason("buy.refused", { carrier: carrier.name, why }) }
  }
  const { booking } = answer
  const why = whyNot(booking, expected)
  if (!why) return { kind: "good", booking }
  await gateway.cancel(key)
  return { kind: "differs", why, booking }
}

/** Why a booking is not what was asked for: another price, other packages, numbers that a post can't read. */
function whyNot({ charge, packages }: Booking, { carrier, amount, currency, request }: Expected): Reason | null {
  if (charge.currency !== currency || new Decimal(charge.amount).sub(amount).abs().gt(carrier.tolerance))
    return reason("buy.differs", {
      carrier: carrier.name,
      expected: new Decimal(amount).toFixed(2),
      answered: charge.amount,
      currency: charge.currency,
    })
  const each =
    request.packages.length === packages.length &&
    request.packages.every((one) => packages.some((answered) => answered.number === one.number)) &&
    new Set(packages.map((one) => one.trackingNumber)).size === packages.length
  if (!each) return reason("buy.pieces-differ", { carrier: carrier.name })
  const numbered = carrier.numbers === "plain" || packages.every((one) => isPostalItemNumber(one.trackingNumber))
  return numbered ? null : reason("buy.number-wrong", { carrier: carrier.name })
}
