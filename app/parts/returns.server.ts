import type { OrderId } from "core/ids/index.ts"
import { type MoneyText, moneyText } from "core/money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { may } from "server/actors/index.ts"
import type { Work } from "server/http/context.ts"
import { leadOf } from "server/orders/joined.ts"
import { handled, shipmentOf } from "server/packages/shipment.ts"
import { askReturn } from "server/returns/ask.ts"
import { voidReturn } from "server/returns/book.ts"
import { returnAsk } from "server/returns/goods.ts"
import { returnsOfOrder } from "server/returns/list.ts"
import { returnOffers } from "server/returns/offers.ts"
import { returnsOf } from "server/returns/read.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { type Answered, act, field } from "../shell/acts.server.ts"
import { done } from "../shell/scan.server.ts"

const handing = z.object({ prints: z.boolean(), mailTo: z.string().trim().max(120) })
const wholeAsk = z.object({ ask: returnAsk, handing })

/** What a page shows of the ways back of an order: its labels, and what another can be for. Null before it is bought. */
export async function returnsView(work: Work, orderId: OrderId) {
  const lead = await leadOf(work.db, orderId)
  const sees = may(work.actor, "packing.see")
  const list = sees ? await returnsOf(work.db, work.warehouse.id, lead) : []
  const came = sees ? await returnsOfOrder(work.db, work.warehouse.id, lead) : []
  const shipment = may(work.actor, "shipping.buy") ? await shipmentOf(work.db, lead) : null
  if (shipment?.state !== "bought") return list.length + came.length > 0 ? { list, came, from: null } : null
  return {
    list,
    came,
    from: {
      key: crypto.randomUUID(),
      packages: handled(shipment.packages).map((one) => ({
        number: one.number,
        name: `${shipment.orderNumber}-${one.number}`,
      })),
      lines: shipment.lines
        .filter((line) => line.packed > 0)
        .map((line) => ({ id: line.id, sku: line.sku, description: line.description, sent: line.packed })),
      returnTo: shipment.returnTo?.company ?? null,
    },
  }
}
export type ReturnsView = NonNullable<Awaited<ReturnType<typeof returnsView>>>

/** Prices of a way back that was asked for, each of which can be taken. */
export interface ReturnPrices {
  /** What was asked, as it is sent again with the one that is taken. */
  readonly asked: string
  readonly packages: number
  readonly offers: readonly {
    readonly code: string
    readonly name: string
    readonly price: MoneyText | null
    readonly paid: "at-once" | "when-scanned"
    readonly days: number
    readonly preselected: boolean
    readonly why: readonly Reason[]
  }[]
}
export interface ReturnsAnswer extends Answered {
  readonly returnPrices?: ReturnPrices
}

/** What was typed, as the use case takes it: packages or pieces, whichever was chosen. */
function askedIn(form: FormData): z.input<typeof wholeAsk> {
  const text = (name: string) => String(form.get(name) ?? "")
  const what = text("what")
  const pieces = [...form.keys()].flatMap((name) => {
    const id = /^back-(\d{1,10})$/.exec(name)?.[1]
    return what === "lines" && id && text(name).trim() !== "" ? [[id, text(name).trim()]] : []
  })
  return {
    ask: {
      packages: what === "packages" ? form.getAll("back").map(String) : [],
      pieces: Object.fromEntries(pieces),
      to: text("to") as "warehouse",
      company: text("company"),
      street: text("street"),
      city: text("city"),
      state: text("state"),
      postalCode: text("postal_code"),
      country: text("country"),
    },
    handing: { prints: form.get("prints") === "on", mailTo: text("mailTo") },
  }
}

async function pricesOf(work: Work, orderId: OrderId, form: FormData): Promise<Outcome<ReturnPrices>> {
  const asked = askedIn(form)
  // the schema would take 1e3 and 0x10 for numbers too
  if (Object.values(asked.ask.pieces ?? {}).some((n) => !/^\d{1,7}$/.test(String(n))))
    return refused(reason("return.pieces"))
  const read = wholeAsk.safeParse(asked)
  if (!read.success)
    return refused(reason(read.error.issues[0]?.path[1] === "packages" ? "return.nothing" : "return.unreadable"))
  const { ask, handing } = read.data
  const what = String(form.get("what"))
  const none = what === "packages" ? ask.packages.length === 0 : Object.values(ask.pieces).every((n) => n === 0)
  if (what !== "whole" && none) return refused(reason("return.nothing"))
  if (!handing.prints && handing.mailTo === "") return refused(reason("return.how"))
  const shipment = await shipmentOf(work.db, await leadOf(work.db, orderId))
  if (!shipment || shipment.warehouseId !== work.actor.warehouseId) return refused(reason("order.unknown"))
  const warehouse = await warehouseById(work.db, shipment.warehouseId)
  const priced = await returnOffers(work.db, warehouse, shipment, ask, work.now)
  if (!priced.ok) return priced
  return accepted({
    asked: JSON.stringify(read.data),
    packages: priced.value.back.packages.length,
    offers: priced.value.offers.map((one) => ({
      code: one.service.code,
      name: one.service.name,
      price: one.rate ? moneyText(one.rate.contract) : null,
      paid: one.terms?.returns?.paid ?? "at-once",
      days: one.terms?.returns?.validDays ?? 0,
      preselected: one === priced.value.preselected,
      why: one.refusals,
    })),
  })
}

/** What an order's ways back are asked for: prices, one of them, and to make a label void. */
export const returnActs = (work: Work, orderId: OrderId) => ({
  "return-price": act(
    z.looseObject({}),
    (_, __, { form }) => pricesOf(work, orderId, form),
    (returnPrices): ReturnsAnswer => ({ ...done(""), returnPrices }),
    { at: { "return.how": "mailTo" } },
  ),
  "return-buy": act(
    z.object({
      asked: z.string().max(20_000),
      service: field.text(16),
      amount: field.text(16),
      currency: field.text(3),
      key: field.text(60),
    }),
    (_, { asked, service, amount, currency, key }) => {
      const read = wholeAsk.safeParse(jsonOf(asked))
      if (!read.success) return Promise.resolve(refused(reason("return.unreadable")))
      const purchase = { serviceCode: service, expected: { amount, currency }, ...read.data.handing }
      return askReturn(work, orderId, read.data.ask, purchase, key)
    },
    () => say("return.asked"),
  ),
  "return-void": act(
    z.object({ back: field.id, number: field.id }),
    (_, { back }) => voidReturn(work, back),
    (_, { number }) => say("return.void-done", { n: number }),
  ),
})

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
