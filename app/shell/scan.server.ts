import { localDate } from "core/calendar/index.ts"
import { ownCode } from "core/identifier/index.ts"
import { stages } from "core/orders/index.ts"
import { readings } from "core/scanning/index.ts"
import { redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { itemOfGtin } from "server/goods/lookUp.ts"
import type { Work } from "server/http/context.ts"
import { type OrderSummary, summaryByNumber } from "server/orders/facts.ts"
import { byCode, packageByCode } from "server/papers/byCode.ts"
import { isTestNumber } from "server/papers/label.ts"
import { runs, toteByCode, waitingForItem } from "server/picking/runs.ts"
import { collectionsOn } from "server/setup/collections.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import type { Understood } from "./Sill.tsx"

/** What a text means anywhere in the application, in words, and where it leads. */
export async function resolveScan(work: Work, text: string): Promise<Understood & { to: string | null }> {
  if (isTestNumber(text)) return { fits: false, words: say("dock.test-label"), to: null }
  let refusal: string | null = null
  for (const reading of readings(text)) {
    if (reading.kind === "order") {
      const order = await summaryByNumber(work.db, work.warehouse, reading.orderNumber)
      if (!order) refusal ??= say("scan.order-unknown", { orderNumber: reading.orderNumber })
      else return orderFound(work, order)
    }
    if (reading.kind === "sscc" || reading.kind === "package") {
      const found = await packageFound(work, reading)
      if (found) return found
      refusal ??= say("scan.package-unknown")
    }
    if (reading.kind === "door" || (reading.kind === "number" && /^\d{1,2}$/.test(reading.figure))) {
      const door = reading.kind === "door" ? reading.door : reading.figure
      const today = await collectionsOn(work.db, work.warehouse.id, localDate(work.now, work.warehouse.zone))
      const found = today.find((one) => one.door === door && !one.closedAt) ?? today.find((one) => one.door === door)
      if (!found) refusal ??= say("scan.door-unknown", { door })
      else
        return {
          fits: true,
          words: say("scan.door", { door, carrier: found.carrier, time: clock(found.cutOff, work.warehouse.zone) }),
          to: `/dock/${found.id}`,
        }
    }
    if (reading.kind === "run" && may(work.actor, "packing.see")) {
      const [run] = await runs(work.db, work.warehouse.id, { number: reading.run })
      if (!run) refusal ??= say("run.unknown", { run: reading.run })
      else
        return {
          fits: true,
          words: say("scan.run", { run: run.number, orders: run.orders, state: say(`runs.state.${run.state}`) }),
          to: `/pick/runs/${run.number}`,
        }
    }
    if (reading.kind === "code" && may(work.actor, "packing.see")) {
      const tote = await toteByCode(work.db, work.warehouse.id, ownCode(reading.code))
      if (tote) {
        const order = tote.orderNumber ? await summaryByNumber(work.db, work.warehouse, tote.orderNumber) : null
        if (!order) refusal ??= say("scan.tote-empty", { tote: tote.code })
        else
          return {
            fits: true,
            words: say("scan.tote", { tote: tote.code, orderNumber: order.orderNumber, customer: order.customer }),
            to: whereWorkStands(order),
          }
      }
    }
    if (reading.kind === "code") {
      const found = await coded(work, reading.code)
      if (found) return found
    }
    if (reading.kind === "gtin") {
      const item = await itemOfGtin(work.db, reading.gtin)
      const orderNumber =
        item && may(work.actor, "packing.see") ? await waitingForItem(work.db, work.warehouse.id, item.id) : null
      if (item && orderNumber)
        return { fits: true, words: say("scan.single", { orderNumber, sku: item.sku }), to: `/shipment/${orderNumber}` }
      if (item)
        return {
          fits: true,
          words: say(item.pieces > 1 ? "scan.item-level" : "scan.item", item),
          to: `/orders?find=${encodeURIComponent(item.sku)}`,
        }
    }
  }
  return { fits: false, words: refusal ?? say("scan.unknown"), to: null }
}

/** The order that a text stands for: its number, a package of it, the tote it is in, or a paper; or why there is none. */
export async function orderOfScan(work: Work, text: string): Promise<number | string> {
  const of = async (orderNumber: string | null | undefined) =>
    orderNumber ? ((await summaryByNumber(work.db, work.warehouse, orderNumber))?.id ?? null) : null
  for (const reading of readings(text)) {
    const found =
      reading.kind === "order"
        ? await of(reading.orderNumber)
        : reading.kind === "sscc" || reading.kind === "package"
          ? await of((await packageByCode(work.db, work.warehouse.id, reading))?.orderNumber)
          : reading.kind === "code"
            ? ((await of((await toteByCode(work.db, work.warehouse.id, ownCode(reading.code)))?.orderNumber)) ??
              (await of(await orderOfPaper(work, reading.code))))
            : null
    if (found !== null) return found
  }
  return say("scan.no-order")
}

async function orderOfPaper(work: Work, text: string): Promise<string | null> {
  const found = await byCode(work.db, work.warehouse.id, text)
  if (found?.kind === "package") return (await packageByCode(work.db, work.warehouse.id, found))?.orderNumber ?? null
  return found && "orderNumber" in found ? found.orderNumber : null
}

type Found = Understood & { readonly to: string | null }

/** A package by its SSCC or its name, and where it stands. */
async function packageFound(
  work: Work,
  code: { readonly sscc: string } | { readonly orderNumber: string; readonly number: number },
): Promise<Found | null> {
  const row = await packageByCode(work.db, work.warehouse.id, code)
  if (!row) return null
  const seesFloor = may(work.actor, "packing.see")
  const to =
    seesFloor && ["labelled", "on-truck", "left-behind"].includes(row.state)
      ? `/dock/${row.collectionId}`
      : seesFloor && ["open", "closed"].includes(row.state)
        ? `/shipment/${row.orderNumber}`
        : `/orders/${row.orderNumber}`
  return {
    fits: true,
    words: say("scan.package", {
      name: `${row.orderNumber}-${row.number}`,
      customer: row.customer,
      state: wordFor("package", row.state),
    }),
    to,
  }
}

/** What a number on a paper stands for, in words, and the page that shows it. */
async function coded(work: Work, text: string): Promise<Found | null> {
  const found = await byCode(work.db, work.warehouse.id, text)
  const seesFloor = may(work.actor, "packing.see")
  switch (found?.kind) {
    case "package":
      return packageFound(work, found)
    case "order": {
      const order = await summaryByNumber(work.db, work.warehouse, found.orderNumber)
      return order && orderFound(work, order)
    }
    case "orders":
      return {
        fits: true,
        words: say("scan.orders", { n: found.count, number: found.number }),
        to: `/orders?find=${encodeURIComponent(found.number)}`,
      }
    case "manifest":
      return seesFloor
        ? {
            fits: true,
            words: say("scan.manifest", { number: found.number, door: found.door }),
            to: `/dock/${found.collectionId}`,
          }
        : null
    case "paper":
      return {
        fits: true,
        words: say(found.void ? "scan.paper-void" : "scan.paper", {
          kind: say(`papers.kind.${found.paper}`),
          name: found.name,
          orderNumber: found.orderNumber,
        }),
        to: `/orders/${found.orderNumber}`,
      }
    case "quote":
      return {
        fits: true,
        words: say("scan.quote", { number: found.number, customer: found.customer }),
        to: `/orders/quotes/${found.number}`,
      }
    case "bin":
      return seesFloor
        ? {
            fits: true,
            words: say("scan.bin-stock", { bin: found.code }),
            to: `/set-up/stock?find=${encodeURIComponent(found.code)}`,
          }
        : null
    default:
      return null
  }
}

/** An order, and where its work stands. */
function orderFound(work: Work, order: OrderSummary): Found {
  const stage = order.stops.length > 0 ? "part-stopped" : order.stage
  return {
    fits: true,
    words: say("scan.order", {
      orderNumber: order.orderNumber,
      customer: order.customer,
      stage: wordFor("stage", stage),
    }),
    to: may(work.actor, "packing.see") ? whereWorkStands(order) : `/orders/${order.orderNumber}`,
  }
}

/** The screen on which an order's next work is done. */
export function whereWorkStands(order: {
  orderNumber: string
  stage: string
  stops: readonly unknown[]
  lead: { orderNumber: string } | null
}): string {
  const at = stages.indexOf(order.stage as (typeof stages)[number])
  if (order.stops.length > 0 || ["received", "outside", "gone", "delivered", "cancelled"].includes(order.stage))
    return `/orders/${order.orderNumber}`
  return at < stages.indexOf("picked")
    ? `/pick/${order.orderNumber}`
    : `/shipment/${order.lead?.orderNumber ?? order.orderNumber}`
}

export interface ScanRefusal {
  readonly answer: { readonly key: string; readonly refused: true; readonly words: string }
}

/** Follows a scan that the screen itself has nothing for; goes there, or says what is wrong. */
export async function followScan(work: Work, text: string): Promise<ScanRefusal> {
  const resolved = await resolveScan(work, text)
  if (resolved.to) throw redirect(resolved.to)
  return refusal(resolved.words)
}

export const refusal = (words: string): ScanRefusal => ({ answer: { key: crypto.randomUUID(), refused: true, words } })
export const done = (words: string): { answer: { key: string; refused: false; words: string } } => ({
  answer: { key: crypto.randomUUID(), refused: false, words },
})
