import type { Knex } from "knex"
import type { CarrierEvent } from "server/formats/carrierEvents.ts"
import type { MailLine } from "server/gateways/mail.ts"
import { sendWaiting } from "server/mail/index.ts"
import { takeEvents } from "server/tracking/take.ts"
import { there } from "../../server/db/there.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)

/** Units that are on their way, one for each package of the bench's dock. */
export async function fillUnits(db: Knex, first: number, count: number): Promise<string[]> {
  const service = there(await db("service").where({ code: "LKG" }).first("id", "carrier_id"))
  const left = new Date("2026-11-23T22:00:00Z")
  for (let from = 0; from < count; from += 1_000)
    await db("tracked_unit").insert(
      Array.from({ length: Math.min(1_000, count - from) }, (_, index) => {
        const id = first + from + index
        return {
          warehouse_id: 1,
          order_id: id,
          kind: "package" as const,
          piece: 1,
          carrier_id: service.carrier_id,
          service_id: service.id,
          carrier: "Larkspur Parcel",
          tracking: `DK${id}`,
          name: `D${id}-1`,
          zone: "America/Denver",
          lane: "US-CO",
          shipped_on: "2026-11-23" as const,
          arrives_on: "2026-11-30" as const,
          due_on: "2026-12-02" as const,
          left_at: left,
        }
      }),
    )
  return Array.from({ length: count }, (_, index) => `DK${first + index}`)
}

const steps = ["PU", "DEP", "ARR", "DEP", "ARR", "OFD", "DEL"] as const

/** The events of a way, step by step over all packages, as they come in over a day. */
export function* wayEvents(numbers: readonly string[]): Generator<CarrierEvent> {
  for (const [step, code] of steps.entries())
    for (const [index, tracking] of numbers.entries())
      yield {
        id: `bench-${step}-${index}`,
        tracking,
        master: "",
        code,
        text: "",
        at: new Date(Date.UTC(2026, 10, 24, 6 + step, index % 60, 0)),
        zoneOffset: -420,
        place: "Denver, CO",
        postalCode: "80202",
        country: "US",
        estimatedOn: null,
        name: code === "DEL" ? "I. Brook" : "",
        picture: null,
      }
}

/** Takes events as fast as one worker does; how many an hour that makes. */
export async function benchEvents(
  db: Knex,
  carrierId: number,
  events: Iterator<CarrierEvent>,
  now: Date,
): Promise<void> {
  const amount = 2_000
  const began = performance.now()
  let taken = 0
  while (taken < amount) {
    const some: CarrierEvent[] = []
    for (let one = events.next(); !one.done && some.length < 100; one = events.next()) some.push(one.value)
    taken += await takeEvents(db, carrierId, some, "pulled", now)
  }
  const perSecond = taken / ((performance.now() - began) / 1_000)
  say(
    `\nevents taken in, one worker: ${perSecond.toFixed(0)} a second, ${((perSecond * 3_600) / 20_000).toFixed(1)} times 20 000 an hour`,
  )
}

/** Takes events at 20 000 an hour until it is told to stop, as a worker beside the interface does. */
export function feedEvents(
  db: Knex,
  carrierId: number,
  events: Iterator<CarrierEvent>,
  now: Date,
): () => Promise<void> {
  let stopped = false
  const perTick = 6
  const done = (async () => {
    while (!stopped) {
      const began = performance.now()
      const some: CarrierEvent[] = []
      for (let one = events.next(); !one.done && some.length < perTick; one = events.next()) some.push(one.value)
      await takeEvents(db, carrierId, some, "pulled", now)
      const rest = (perTick / 20_000) * 3_600_000 - (performance.now() - began)
      if (rest > 0) await new Promise((resolve) => setTimeout(resolve, rest))
    }
  })()
  return () => {
    stopped = true
    return done
  }
}

/** A hundred thousand messages that wait while the mail server is away, and what becomes of them when it is back. */
export async function benchMail(db: Knex, amount: number): Promise<void> {
  for (let from = 0; from < amount; from += 2_000)
    await db("mail").insert(
      Array.from({ length: Math.min(2_000, amount - from) }, (_, index) => ({
        once_key: `bench ${from + index}`,
        warehouse_id: 1,
        recipient: `r${from + index}@example.com`,
        subject: "Your order is on its way",
        body: "Follow it here.",
        made_by: "",
        made_at: new Date("2026-11-24T16:00:00Z"),
      })),
    )
  const sent = new Map<string, number>()
  let away = true
  const line: MailLine = {
    send: async ({ to }) => {
      if (away) throw new Error("nobody answers")
      sent.set(to, (sent.get(to) ?? 0) + 1)
      return { kind: "sent" }
    },
    close: () => undefined,
  }
  let began = performance.now()
  const tries = 120
  for (let at = 0; at < tries; at += 1) await sendWaiting(db, () => line).catch(() => undefined)
  const triesMs = performance.now() - began
  const lost = amount - Number((await db("mail").where({ state: "waiting" }).count({ n: "*" }).first())?.n ?? 0)
  away = false
  began = performance.now()
  // two workers
  await Promise.all([sendWaiting(db, () => line), sendWaiting(db, () => line)])
  const seconds = (performance.now() - began) / 1_000
  const twice = [...sent.values()].filter((times) => times > 1).length
  say(
    `\n${amount} messages over an hour's outage (${tries} tries, ${(triesMs / tries).toFixed(0)} ms each): ${lost} lost meanwhile; then ${sent.size} sent in ${seconds.toFixed(0)} s by two workers (${(sent.size / seconds).toFixed(0)} a second), ${twice} twice`,
  )
  if (lost !== 0 || twice !== 0 || sent.size !== amount) throw new Error("messages were lost or sent twice")
}
