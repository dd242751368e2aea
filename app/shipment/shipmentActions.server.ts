import type { OrderId } from "core/ids/index.ts"
import { type Outcome, reason } from "core/refusal/index.ts"
import { length, mass } from "core/units/index.ts"
import { redirect } from "react-router"
import { shipWhatIsPacked, splitShipment } from "server/decisions/apart.ts"
import { makeWhole } from "server/decisions/reroute.ts"
import type { Work } from "server/http/context.ts"
import { orderNumberOf } from "server/orders/row.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { packagingTypes } from "server/packaging/catalog.ts"
import {
  addPackage,
  closePackages,
  openShipment,
  palletise,
  putIn,
  putSeveral,
  removePackage,
  reopenPackages,
  resize,
  standOn,
  takeApart,
  weigh,
} from "server/packing/index.ts"
import {
  addOneOff,
  copyPackage,
  emptyPackage,
  mergePackages,
  movePieces,
  overrideFlaw,
  packInOwnCartons,
  splitPackage,
} from "server/packing/rearrange.ts"
import { isOfWeight, recount } from "server/packing/recount.ts"
import { weighByScale } from "server/packing/scales.ts"
import { fillPlanned, packSuggested, suggestedSchema } from "server/packing/suggestion.ts"
import { setShipDate } from "server/plan/shipDate.ts"
import { buy, giveUp, waitForAnswer } from "server/shipping/buy.ts"
import { setCharged } from "server/shipping/charged.ts"
import { repack } from "server/shipping/otherwise.ts"
import { askVoid } from "server/shipping/void.ts"
import { askFor } from "server/shipping/wishes.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { orderPaper, printed } from "../parts/printed.server.ts"
import { onceKey } from "../shell/once.server.ts"
import type { Answer } from "../shell/Sill.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { inWords, meaning } from "./packingMeaning.ts"
import { shipmentView } from "./shipmentView.server.ts"
import { wantedOf } from "./wishesForm.server.ts"

export interface ShipmentAnswer {
  readonly answer: Answer
  readonly hand?: number
  /** Package that scans take out of, into the one in hand. */
  readonly from?: number
}

/** Everything that is done at a shipment: packing, weighing, rearranging, buying, and what is scanned there. */
export async function shipmentAction(work: Work, orderId: OrderId, form: FormData): Promise<ShipmentAnswer> {
  const text = (name: string) =>
    String(form.get(name) ?? "")
      .trim()
      .slice(0, 120)
  const key = onceKey(form)
  const number = Number(text("package"))
  const line = Number(text("line"))
  switch (text("intent")) {
    case "add":
      return added(await addCarton(work, orderId, text("packaging"), form.get("fill") === "yes", key))
    case "remove":
      return answerOf(await removePackage(work, orderId, number))
    case "put":
      return answerOf(
        await putIn(work, orderId, {
          package: number,
          lineId: line,
          quantity: Number(text("quantity")),
          scanned: false,
          // each press of a button is a piece more, or less
          scanId: text("scanId") || crypto.randomUUID(),
        }),
        "",
        number,
      )
    case "suggested":
      return suggested(work, orderId, form, key)
    case "print": {
      const orderNumber = await orderNumberOf(work.db, work.warehouse.id, orderId)
      return orderNumber === null
        ? refusal(say("order.unknown"))
        : printed(work, orderPaper(work, text("paper"), orderNumber), key)
    }
    case "fill-plan":
      return answerOf(await fillPlanned(work, orderId))
    case "move": {
      const move = {
        from: number,
        to: Number(text("to")),
        lineId: line,
        quantity: Number(text("quantity")),
        key,
      }
      return answerOf(await movePieces(work, orderId, move), "", move.to)
    }
    case "copy":
      return answerOf(await copyPackage(work, orderId, number, Number(text("times")), key))
    case "merge":
      return answerOf(await mergePackages(work, orderId, number, Number(text("to"))), "", Number(text("to")))
    case "split":
      return answerOf(await splitPackage(work, orderId, number, key))
    case "empty":
      return answerOf(await emptyPackage(work, orderId, number), "", number)
    case "own-cartons": {
      const opened = await openShipment(work, orderId)
      return answerOf(opened.ok ? await packInOwnCartons(work, orderId, line, key) : opened)
    }
    case "one-off": {
      const opened = await openShipment(work, orderId)
      if (!opened.ok) return answerOf(opened)
      const edges = edgesOf((["length", "width", "height"] as const).map(text), text("unit"))
      const tare = figure(text("tare") || "0")
      if (!edges || tare === null) return answerOf(notANumber)
      const unit = text("unit") === "cm" ? "kg" : "lb"
      return added(
        await addOneOff(work, orderId, { outer: edges, tare: mass(text("tare").replace(",", ".") || "0", unit) }, key),
      )
    }
    case "override":
      return answerOf(
        await overrideFlaw(work, orderId, number, String(form.get("flaw") ?? "").slice(0, 400), text("why")),
      )
    case "recount": {
      // a field that is left empty counts none
      const typed = [...form.entries()].flatMap(([name, value]) => {
        const line = /^line-(\d{1,10})$/.exec(name)?.[1]
        return line ? [[Number(line), value === "" ? 0 : Number(value)] as const] : []
      })
      return counted(await recount(work, orderId, number, new Map(typed), key), number)
    }
    case "scale":
      return answerOf(await weighByScale(work, orderId, number, Number(text("scale")) || null), "", number)
    case "split-off": {
      const outcome = await splitShipment(work, orderId, form.getAll("chosen").map(Number))
      return outcome.ok ? done(say("packing.split-done", outcome.value)) : refusal(sayReasons(outcome.reasons))
    }
    case "partial": {
      const outcome = await shipWhatIsPacked(work, orderId)
      return outcome.ok ? done(say("packing.partial-done", outcome.value)) : refusal(sayReasons(outcome.reasons))
    }
    case "repack":
      return answerOf(await repack(work, orderId, key))
    case "whole": {
      const outcome = await makeWhole(work, orderId)
      if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
      throw redirect(`/shipment/${outcome.value.orderNumber}`)
    }
    case "put-again":
      return { ...done(""), hand: number }
    case "weigh":
      return answerOf(await weighText(work, orderId, number, text("weight"), text("unit")), "", number)
    case "resize": {
      const edges = edgesOf((["length", "width", "height"] as const).map(text), text("unit"))
      return answerOf(edges ? await resize(work, orderId, number, edges) : notANumber, "", number)
    }
    case "palletise":
      return answerOf(await palletise(work, orderId, await firstPallet(work)))
    case "take-apart":
      return answerOf(await takeApart(work, orderId))
    case "stand-on":
      return answerOf(await standOn(work, orderId, number, Number(text("pallet")) || null))
    case "ship-date": {
      const outcome = await setShipDate(work, orderId, text("day") || null)
      return outcome.ok ? done("") : refusal(sayReasons(outcome.reasons))
    }
    case "charge":
      return answerOf(await setCharged(work, orderId, text("amount").replace(",", "."), text("why"), key))
    case "ask-option":
    case "ask-declared":
    case "ask-dry-ice":
    case "ask-hold":
    case "ask-stackable":
    case "ask-payer":
    case "ask-duties": {
      const wanted = await wantedOf(work, orderId, text("intent"), form)
      if (!wanted.ok) return refusal(sayReasons(wanted.reasons))
      const { change, ...rest } = wanted.value
      return answerOf(await askFor(work, orderId, rest, key, change ?? null))
    }
    case "void": {
      const outcome = await askVoid(work, orderId)
      return outcome.ok ? done("") : refusal(sayReasons(outcome.reasons))
    }
    case "close":
      return answerOf(await closePackages(work, orderId))
    case "reopen":
      return answerOf(await reopenPackages(work, orderId))
    case "give-up":
      await giveUp(work, orderId)
      return done("")
    case "buy": {
      const outcome = await buy(work, orderId, {
        version: Number(text("version")),
        serviceCode: text("service"),
        expected: { amount: text("amount"), currency: text("currency"), leaves: text("leaves") },
      })
      if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
      await waitForAnswer(work.db, outcome.value.intentId, 3_000)
      return done("")
    }
    default:
      return scanned(work, orderId, text("text"), Number(text("hand")) || null, Number(text("from")) || null, key)
  }
}

const answerOf = (outcome: Outcome<Shipment>, words = "", hand?: number): ShipmentAnswer =>
  outcome.ok ? { ...done(words), hand } : { ...refusal(sayReasons(outcome.reasons)), hand }
/** What came of counting a package again: what is in it now, and whether its weight agrees. */
const counted = (outcome: Outcome<Shipment>, number: number): ShipmentAnswer => {
  if (!outcome.ok) return answerOf(outcome, "", number)
  const one = outcome.value.packages.find((each) => each.number === number)
  return one?.flaws.some(isOfWeight)
    ? { ...refusal(sayReasons(one.flaws.filter(isOfWeight))), hand: number }
    : answerOf(outcome, say("pack.counted-said", { n: number }), number)
}
const added = (outcome: Outcome<Shipment>): ShipmentAnswer =>
  answerOf(outcome, "", outcome.ok ? outcome.value.packages.at(-1)?.number : undefined)

async function addCarton(
  work: Work,
  orderId: OrderId,
  code: string,
  fill: boolean,
  key: string,
): Promise<Outcome<Shipment>> {
  const opened = await openShipment(work, orderId)
  return opened.ok ? addPackage(work, orderId, code, fill, key) : opened
}

/** A suggestion that the browser worked out, read and checked. */
async function suggested(work: Work, orderId: OrderId, form: FormData, key: string): Promise<ShipmentAnswer> {
  let body: unknown = null
  try {
    body = JSON.parse(String(form.get("boxes") ?? "").slice(0, 2_000_000))
  } catch {
    // what can't be read is refused below
  }
  const read = suggestedSchema.safeParse(body)
  if (!read.success) return refusal(say("packing.not-right"))
  const opened = await openShipment(work, orderId)
  if (!opened.ok) return refusal(sayReasons(opened.reasons))
  return answerOf(await packSuggested(work, orderId, read.data, form.get("fill") === "yes", key))
}

const figure = (text: string): number | null =>
  /^\d{1,6}([.,]\d{1,4})?$/.test(text) ? Number(text.replace(",", ".")) : null
const notANumber: Outcome<Shipment> = { ok: false, reasons: [reason("pack.number-wanted")] }

const firstPallet = async ({ db }: Work): Promise<string> =>
  (await packagingTypes(db)).find((type) => type.kind === "pallet")?.code ?? ""

function edgesOf(texts: readonly string[], unit: string) {
  if (texts.some((text) => figure(text) === null)) return null
  const [l, w, h] = texts.map((text) => length(text.replace(",", "."), unit === "cm" ? "cm" : "in")) as [
    ReturnType<typeof length>,
    ReturnType<typeof length>,
    ReturnType<typeof length>,
  ]
  return { length: l, width: w, height: h }
}

/** A weight as typed, with its unit or in the one that the form says. */
async function weighText(
  work: Work,
  orderId: OrderId,
  number: number,
  text: string,
  unit: string,
): Promise<Outcome<Shipment>> {
  if (text === "") return weigh(work, orderId, number, null)
  const typed = /^(.*?)\s*(lb|kg)?$/i.exec(text)
  const shown = figure(typed?.[1] ?? "")
  if (shown === null) return notANumber
  const in_ = (typed?.[2]?.toLowerCase() ?? unit) === "kg" ? "kg" : "lb"
  return weigh(work, orderId, number, mass((typed?.[1] ?? "").replace(",", "."), in_))
}

/** A scan at packing: an item into the carton in hand, a line with a quantity, a carton of the catalog, a weight. */
async function scanned(
  work: Work,
  orderId: OrderId,
  text: string,
  hand: number | null,
  out: number | null,
  scanId: string,
): Promise<ShipmentAnswer> {
  const orderNumber = await orderNumberOf(work.db, work.warehouse.id, orderId)
  const view = orderNumber === null ? null : await shipmentView(work, orderNumber)
  if (!view) return refusal(say("order.unknown"))
  const meant = view.state === "open" ? meaning(view, text, hand, out) : null
  if (!meant) return followScan(work, text)
  switch (meant.kind) {
    case "carton":
      return added(await addCarton(work, orderId, meant.code, false, scanId))
    case "hand":
      return { ...done(""), hand: meant.number }
    case "from":
      return {
        ...done(say("packing.from", { from: meant.from, to: meant.carton })),
        hand: meant.carton,
        from: meant.from,
      }
    case "put": {
      const outcome = await putIn(work, orderId, {
        package: meant.carton,
        lineId: meant.lineId,
        quantity: meant.quantity,
        scanned: meant.scanned,
        scanId,
      })
      return answerOf(outcome, inWords(view, meant), meant.carton)
    }
    case "several": {
      const last = meant.puts.at(-1)?.package
      return answerOf(await putSeveral(work, orderId, meant.puts, scanId), inWords(view, meant), last)
    }
    case "count":
      return counted(await recount(work, orderId, meant.carton, new Map(meant.counted), scanId), meant.carton)
    case "move": {
      const { from, to, lineId, quantity, sku } = meant
      const outcome = await movePieces(work, orderId, { from, to, lineId, quantity, key: scanId })
      return { ...answerOf(outcome, say("packing.moves", { n: quantity, sku, from, to }), to), from: out ?? undefined }
    }
    case "service":
      throw redirect(`/shipment/${view.orderNumber}?service=${meant.code}`)
    case "scale":
      return answerOf(await weighByScale(work, orderId, meant.carton, null), "", meant.carton)
    case "weight":
      return answerOf(await weigh(work, orderId, meant.carton, mass(meant.figure, meant.unit)), "", meant.carton)
    case "refused":
      return { ...refusal(sayReasons([meant.why])), hand: hand ?? undefined, from: out ?? undefined }
  }
}
