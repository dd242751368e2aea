import { payerOf } from "core/rating/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { type Booking, type BookingRequest, type CarrierGateway, httpCarrier } from "../gateways/carrier.ts"
import { answeredAmount, type StoredRate } from "../rating/storedRate.ts"

/** Something on which our ledger and a carrier's do not agree. */
export interface Difference {
  readonly carrier: string
  readonly key: string
  readonly ours: string
  readonly theirs: string
}

export interface Reconciliation {
  readonly carriers: readonly {
    readonly carrier: string
    readonly booked: number
    readonly void: number
    /** Sum of what is booked, in the ledger's currency, to the cent. */
    readonly amount: string
  }[]
  readonly differences: readonly Difference[]
}

/**
 * Holds our ledger of what was bought and voided against every carrier's own: each booking once, with the same
 * charge and numbers, and our charge lines add up to it. Changes nothing. Throws CarrierUnreachable.
 */
export async function reconcile(
  db: Knex,
  carrierAt: (url: string) => CarrierGateway = httpCarrier,
): Promise<Reconciliation> {
  const carriers = await db("carrier").orderBy("id").select("id", "name", "base_url")
  const differences: Difference[] = []
  const sums: Reconciliation["carriers"][number][] = []
  for (const carrier of carriers) {
    const intents = await db("buy_intent as i")
      .join("service as s", "s.id", "i.service_id")
      .where({ "s.carrier_id": carrier.id })
      .orderBy("i.id")
      .select("i.id", "i.idempotency_key", "i.state", "i.answer", "i.request", "i.rate")
    const charges = await db("charge")
      .whereIn(
        "intent_id",
        intents.map((one) => one.id),
      )
      .groupBy("intent_id")
      .select<{ intent_id: number; amount: string }[]>("intent_id", db.raw("SUM(contract_amount) AS amount"))
    const chargedOf = new Map(charges.map((row) => [row.intent_id, cents(row.amount)]))
    const theirs = new Map((await carrierAt(carrier.base_url).ledger()).map((entry) => [entry.key, entry]))
    let total = 0
    for (const intent of intents) {
      const key: string = intent.idempotency_key
      const entry = theirs.get(key)
      theirs.delete(key)
      const own = ["booked", "void"].includes(intent.state)
        ? inOneLine(intent.state, parsed<Booking>(intent.answer))
        : "nothing"
      const other = entry && entry.state !== "cancelled" ? inOneLine(entry.state, entry) : "nothing"
      // an open intent is still being asked about: whatever the carrier has, the job will find
      if (intent.state !== "open" && own !== other)
        differences.push({ carrier: carrier.name, key, ours: own, theirs: other })
      // where another pays, what it costs is nothing of ours
      const { billing } = parsed<BookingRequest>(intent.request)
      const mine = payerOf(billing.terms) === "shipper"
      const booked =
        intent.state === "booked" && mine
          ? cents(
              answeredAmount(parsed<StoredRate>(intent.rate), parsed<Booking>(intent.answer).charge.amount).toFixed(),
            )
          : 0
      const charged = chargedOf.get(intent.id) ?? 0
      if (booked !== charged)
        differences.push({
          carrier: carrier.name,
          key,
          ours: `charge lines of ${money(charged)}`,
          theirs: money(booked),
        })
      total += booked
    }
    for (const back of await returnsAt(db, carrier.id)) {
      const entry = theirs.get(back.key)
      theirs.delete(back.key)
      const other = entry && entry.state !== "cancelled" ? inOneLine(entry.state, entry) : "nothing"
      if (back.state !== "open" && back.state !== "voiding" && back.own !== other)
        differences.push({ carrier: carrier.name, key: back.key, ours: back.own, theirs: other })
      total += back.due
    }
    for (const entry of theirs.values())
      if (entry.state !== "cancelled")
        differences.push({
          carrier: carrier.name,
          key: entry.key,
          ours: "nothing",
          theirs: inOneLine(entry.state, entry),
        })
    sums.push({
      carrier: carrier.name,
      booked: intents.filter((one) => one.state === "booked").length,
      void: intents.filter((one) => one.state === "void").length,
      amount: money(total),
    })
  }
  return { carriers: sums, differences }
}

/** Bookings of ways back at a carrier: what we have written down of each, and what of it is due so far, in cents. */
async function returnsAt(db: Knex, carrierId: number) {
  const rows = await db("return_intent as r")
    .join("service as s", "s.id", "r.service_id")
    .where({ "s.carrier_id": carrierId })
    .select("r.idempotency_key", "r.state", "r.answer", "r.paid", "r.scanned_at")
  return rows.map((row) => {
    const booking = row.state === "booked" || row.state === "void" ? parsed<Booking>(row.answer) : null
    const due = row.state === "booked" && (row.paid === "at-once" || row.scanned_at !== null)
    return {
      key: row.idempotency_key as string,
      state: row.state as string,
      own: booking ? inOneLine(row.state, booking) : "nothing",
      due: due && booking ? cents(booking.charge.amount) : 0,
    }
  })
}

const cents = (amount: string | number): number => Math.round(Number(amount) * 100)
const money = (amount: number): string => (amount / 100).toFixed(2)

const inOneLine = (
  state: string,
  entry: {
    charge: { amount: string; currency: string }
    masterTrackingNumber: string
    packages: readonly { trackingNumber: string }[]
  },
): string =>
  `${state} ${entry.charge.amount} ${entry.charge.currency} ${entry.masterTrackingNumber} ${entry.packages
    .map((one) => one.trackingNumber)
    .sort()
    .join(" ")}`
