import type { LocalDate } from "core/calendar/index.ts"
import type { Made, PaperFacts, PaperService } from "core/papers/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import { there } from "../db/there.ts"
import type { Booking, BookingRequest } from "../gateways/carrier.ts"
import type { Shipment } from "../packages/shipment.ts"
import { paperFacts } from "../papers/facts.ts"
import type { StoredRate } from "../rating/storedRate.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** A purchase, as far as papers go by it. */
export interface BoughtIntent {
  readonly shipment_id: number
  readonly service_id: number
  readonly request: unknown
  readonly actor: string
}

/** What a carrier took and answered, with what is known where it was bought. */
export interface Bought {
  readonly warehouse: Warehouse
  readonly shipment: Shipment
  readonly booking: Pick<Booking, "masterTrackingNumber" | "packages">
  readonly rate: StoredRate
  readonly shipDate: LocalDate
  readonly today: LocalDate
}

/** The number that the carrier was given with a booking: typed before, or of its range; empty: it gave its own. */
export const bookedProNumber = (request: unknown): string => parsed<Partial<BookingRequest>>(request).proNumber ?? ""

/** What the papers of a purchase are worked out from, with the carrier's answer. */
export async function boughtFacts(
  db: Knex,
  intent: BoughtIntent,
  { warehouse, shipment, booking, rate, shipDate, today }: Bought,
): Promise<{ readonly facts: PaperFacts; readonly made: Made }> {
  const before = await db("buy_intent").where({ shipment_id: intent.shipment_id, state: "void" }).count({ n: "id" })
  const voided = Number(before[0]?.n ?? 0)
  const on = { service: await paperServiceOf(db, intent, rate), shipDate, ...paperCarrier(rate) }
  const facts = await paperFacts(db, warehouse, shipment, { on, today, signer: intent.actor })
  const proNumber = bookedProNumber(intent.request) || facts.lading.proNumber
  return {
    facts: { ...facts, lading: { ...facts.lading, proNumber } },
    made: {
      trackingNumber: booking.masterTrackingNumber,
      shipDate,
      tracking: new Map(booking.packages.map((one) => [one.number, one.trackingNumber])),
      suffix: voided > 0 ? `-${voided + 1}` : "",
    },
  }
}

/** The service that papers are made for, as it was bought; one that an earlier release bought by its mode alone. */
async function paperServiceOf(db: Knex, intent: BoughtIntent, rate: StoredRate): Promise<PaperService> {
  if (rate.papers) return rate.papers.service
  const row = there(
    await db("service as s")
      .join("carrier as c", "c.id", "s.carrier_id")
      .where("s.id", intent.service_id)
      .first("s.code", "s.name", "s.mode", "c.code as carrier_code", "c.name as carrier"),
  )
  return {
    code: row.code,
    name: row.name,
    mode: row.mode,
    carrier: row.carrier,
    carrierCode: row.carrier_code,
    regime: row.mode === "air" ? "air" : "road",
    handling: "any",
    postal: null,
    electronic: [],
  }
}

const paperCarrier = ({ papers, charges }: StoredRate) => ({
  carrierId: papers?.carrierId ?? 0,
  accessorials:
    papers?.accessorials ?? charges.map((one) => one.code).filter((code) => !/^(base|fuel|tax)$/.test(code)),
})
