import { localDate } from "core/calendar/index.ts"
import { simpleState } from "core/telling/index.ts"
import type { EventKind } from "core/tracking/index.ts"
import type { Knex } from "knex"
import type { PaperLanguage } from "words/papers.ts"
import { languageOf, senderOf } from "../telling/facts.ts"
import { linkOf } from "../telling/links.ts"
import { eventsOfUnits } from "./follow.ts"

/** What a receiver sees of his shipment: where its packages are, by what was promised. Nothing of cost, others or stock. */
export interface ReceiverPage {
  readonly language: PaperLanguage
  readonly sender: string
  readonly order: string
  readonly place: string
  readonly promisedOn: string | null
  readonly packages: readonly {
    readonly carrier: string
    readonly tracking: string
    readonly state: ReturnType<typeof simpleState>
    readonly expectedOn: string | null
    readonly late: boolean
    readonly deliveredAt: Date | null
    readonly takenBy: string
    readonly place: string
    readonly zone: string
    readonly steps: readonly {
      readonly at: Date
      readonly offset: number
      readonly kind: EventKind
      readonly place: string
    }[]
  }[]
}

/** Packages and steps that are shown at most. */
const mostPackages = 60
const mostSteps = 30

/** The page that a token leads to; null where there is none, or not any more. */
export async function receiverPage(db: Knex, token: string, now: Date): Promise<ReceiverPage | null> {
  const link = await linkOf(db, token, now)
  if (!link) return null
  const order = await db("sales_order")
    .where({ id: link.order_id, warehouse_id: link.warehouse_id })
    .first("id", "source_number", "po_number", "city", "state", "country", "promised_on")
  if (!order) return null
  const units = await db("tracked_unit")
    .where({ order_id: link.order_id })
    .whereNot({ kind: "return" })
    .whereNull("void_at")
    .orderBy("piece")
    .limit(mostPackages)
  const events = await eventsOfUnits(db, units)
  return {
    language: languageOf(link.language),
    sender: (await senderOf(db, order.id)).name,
    order: order.po_number || order.source_number,
    place: [order.city, order.state || order.country].filter(Boolean).join(", "),
    promisedOn: order.promised_on,
    packages: units.map((unit) => {
      const expected = unit.estimated_on ?? unit.arrives_on
      const today = localDate(now, unit.zone)
      const own = events.get(unit.id) ?? []
      return {
        carrier: unit.carrier,
        tracking: unit.tracking,
        state: simpleState(unit.state, unit.left_at !== null),
        expectedOn: expected,
        late:
          unit.delivered_at === null &&
          order.promised_on !== null &&
          (today > order.promised_on || (expected !== null && expected > order.promised_on)),
        deliveredAt: unit.delivered_at,
        takenBy: unit.delivered_to,
        place: unit.place,
        zone: unit.zone,
        // what says nothing of where it is stays with those who see to it
        steps: own
          .filter((event) => event.kind !== null && event.kind !== "note" && event.kind !== "announced")
          .slice(0, mostSteps)
          .map((event) => ({
            at: event.at,
            offset: event.zone_offset,
            kind: event.kind as EventKind,
            place: event.place,
          })),
      }
    }),
  }
}
