import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { length, mass } from "core/units/index.ts"
import { redirect } from "react-router"
import { shipWhatIsPacked, splitShipment } from "server/decisions/apart.ts"
import { changeGroup } from "server/decisions/group.ts"
import { makeWhole } from "server/decisions/reroute.ts"
import type { Work } from "server/http/context.ts"
import { orderNumberOf } from "server/orders/row.ts"
import type { Shipment } from "server/packages/shipment.ts"
import { palletType } from "server/packaging/catalog.ts"
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
import { mailPapers, printPapers } from "server/shipping/papersOut.ts"
import { printTestLabels } from "server/shipping/testLabel.ts"
import { askVoid } from "server/shipping/void.ts"
import { askFor } from "server/shipping/wishes.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { adviceActs } from "../parts/adviceActs.server.ts"
import { paperActs } from "../parts/paperActs.server.ts"
import { orderPaper, printed } from "../parts/printed.server.ts"
import { type ReturnsAnswer, returnActs } from "../parts/returns.server.ts"
import { act, always, field, nothing } from "../shell/acts.server.ts"
import { onceKey } from "../shell/once.server.ts"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { inWords, meaning } from "./packingMeaning.ts"
import { shipmentViewOf } from "./shipmentView.server.ts"
import { type WishIntent, wantedOf } from "./wishesForm.server.ts"

export interface ShipmentAnswer extends ReturnsAnswer {
  readonly hand?: number
  /** Package that scans take out of, into the one in hand. */
  readonly from?: number
}

const inHand = z.object({ package: field.id })
const kept = { kept: (fields: { readonly package: number }) => ({ hand: fields.package }) }
/** What came of an act on a package, which is then in hand. */
const hold = (_: unknown, fields: { readonly package: number }): ShipmentAnswer => ({
  ...done(""),
  hand: fields.package,
})
const edges = { length: field.text(12), width: field.text(12), height: field.text(12), unit: field.text(4) }

/** What the forms of a shipment ask for: packing, weighing, rearranging, buying. */
export const shipmentActs = (work: Work, orderId: OrderId) => ({
  ...packingActs(work, orderId),
  ...buyingActs(work, orderId),
  ...adviceActs(work, orderId),
  ...returnActs(work, orderId),
  ...paperActs(work, orderId),
})

/** Cartons and pallets, what is in them, their weights and sizes. */
const packingActs = (work: Work, orderId: OrderId) => ({
  add: act(
    z.object({ packaging: field.text(), fill: field.tick }),
    (_, { packaging, fill }, { key }) => addCarton(work, orderId, packaging, fill, key),
    last,
  ),
  remove: act(inHand, (_, fields) => removePackage(work, orderId, fields.package)),
  put: act(
    inHand.extend({ line: field.id, quantity: z.coerce.number() }),
    (_, { package: number, line, quantity }, { form }) =>
      putIn(work, orderId, {
        package: number,
        lineId: line,
        quantity,
        scanned: false,
        // each press of a button is a piece more, or less
        scanId: String(form.get("scanId") ?? "").slice(0, 120) || crypto.randomUUID(),
      }),
    hold,
    kept,
  ),
  suggested: act(
    z.object({ boxes: z.string().max(2_000_000).default(""), fill: field.tick, pallet: field.tick }),
    async (_, { boxes, fill, pallet }, { key }) => {
      const packed = await suggested(work, orderId, boxes, fill || pallet, key)
      // sent once more it stands there already
      const loose = packed.ok && packed.value.packages.some((one) => one.kind !== "pallet" && one.on === null)
      return pallet && loose ? palletise(work, orderId, await firstPallet(work)) : packed
    },
  ),
  print: act(
    z.object({ paper: field.text() }),
    async (_, { paper }, { key }) => {
      const orderNumber = await orderNumberOf(work.db, work.warehouse.id, orderId)
      return orderNumber === null
        ? refused(reason("order.unknown"))
        : printed(work, orderPaper(work, paper, orderNumber), key)
    },
    (name) => say("packing.printed", { name }),
  ),
  "fill-plan": act(nothing, () => fillPlanned(work, orderId)),
  move: act(
    inHand.extend({ to: field.id, line: field.id, quantity: z.coerce.number() }),
    (_, { package: from, to, line, quantity }, { key }) =>
      movePieces(work, orderId, { from, to, lineId: line, quantity, key }),
    (_, { to }): ShipmentAnswer => ({ ...done(""), hand: to }),
    { kept: ({ to }) => ({ hand: to }) },
  ),
  copy: act(inHand.extend({ times: field.count }), (_, fields, { key }) =>
    copyPackage(work, orderId, fields.package, fields.times, key),
  ),
  merge: act(
    inHand.extend({ to: field.id }),
    (_, fields) => mergePackages(work, orderId, fields.package, fields.to),
    (_, { to }): ShipmentAnswer => ({ ...done(""), hand: to }),
    { kept: ({ to }) => ({ hand: to }) },
  ),
  split: act(inHand, (_, fields, { key }) => splitPackage(work, orderId, fields.package, key)),
  empty: act(inHand, (_, fields) => emptyPackage(work, orderId, fields.package), hold, kept),
  "own-cartons": act(z.object({ line: field.id }), async (_, { line }, { key }) => {
    const opened = await openShipment(work, orderId)
    return opened.ok ? packInOwnCartons(work, orderId, line, key) : opened
  }),
  "one-off": act(
    z.object({ ...edges, tare: field.text(12) }),
    async (_, { tare, ...typed }, { key }) => {
      const opened = await openShipment(work, orderId)
      if (!opened.ok) return opened
      const outer = edgesOf(typed)
      if (!outer || figure(tare || "0") === null) return notANumber
      const unit = typed.unit === "cm" ? "kg" : "lb"
      return addOneOff(work, orderId, { outer, tare: mass(tare.replace(",", ".") || "0", unit) }, key)
    },
    last,
  ),
  override: act(
    inHand.extend({ flaw: z.string().max(400).default(""), why: field.text() }),
    (_, { package: number, flaw, why }) => overrideFlaw(work, orderId, number, flaw, why),
  ),
  recount: act(
    z.looseObject({ package: field.id }),
    (_, fields, { form, key }) => recount(work, orderId, fields.package, countedIn(form), key),
    (shipment, fields): ShipmentAnswer => counted(accepted(shipment), fields.package),
    { kept: (fields) => ({ hand: fields.package }) },
  ),
  scale: act(
    inHand.extend({ scale: field.id }),
    (_, fields) => weighByScale(work, orderId, fields.package, fields.scale || null),
    hold,
    kept,
  ),
  "split-off": act(
    z.object({ chosen: field.many(field.id) }),
    (_, { chosen }) => splitShipment(work, orderId, chosen),
    (split) => say("packing.split-done", split),
  ),
  partial: act(
    nothing,
    () => shipWhatIsPacked(work, orderId),
    (partial) => say("packing.partial-done", partial),
  ),
  whole: act(
    nothing,
    () => makeWhole(work, orderId),
    ({ orderNumber }) => {
      throw redirect(`/shipment/${orderNumber}`)
    },
  ),
  "put-again": act(inHand, async () => accepted(null), hold),
  weigh: act(
    inHand.extend({ weight: field.text(), unit: field.text(4) }),
    (_, { package: number, weight, unit }) => weighText(work, orderId, number, weight, unit),
    hold,
    { ...kept, at: { "pack.number-wanted": "weight" } },
  ),
  resize: act(
    inHand.extend(edges),
    async (_, { package: number, ...typed }) => {
      const outer = edgesOf(typed)
      return outer ? resize(work, orderId, number, outer) : notANumber
    },
    hold,
    { ...kept, at: { "pack.number-wanted": "length" } },
  ),
  palletise: act(nothing, async () => palletise(work, orderId, await firstPallet(work))),
  "take-apart": act(nothing, () => takeApart(work, orderId)),
  "stand-on": act(inHand.extend({ pallet: field.id }), (_, fields) =>
    standOn(work, orderId, fields.package, fields.pallet || null),
  ),
  close: act(nothing, () => closePackages(work, orderId)),
  reopen: act(nothing, () => reopenPackages(work, orderId)),
})

/** When it leaves, what is asked for, what the customer is charged, and buying. */
const buyingActs = (work: Work, orderId: OrderId) => {
  const ask = (intent: WishIntent) =>
    act(z.looseObject({}), async (_, __, { form, key }) => {
      const wanted = await wantedOf(work, orderId, intent, form)
      if (!wanted.ok) return wanted
      const { change, ...rest } = wanted.value
      return askFor(work, orderId, rest, key, change ?? null)
    })
  return {
    "ship-date": act(z.object({ day: field.text(10) }), (_, { day }) => setShipDate(work, orderId, day || null)),
    charge: act(
      z.object({ amount: field.text(), why: field.text() }),
      (_, { amount, why }, { key }) => setCharged(work, orderId, amount.replace(",", "."), why, key),
      () => "",
    ),
    "ask-option": ask("ask-option"),
    "ask-declared": ask("ask-declared"),
    "ask-dry-ice": ask("ask-dry-ice"),
    "ask-hold": ask("ask-hold"),
    "ask-stackable": ask("ask-stackable"),
    "ask-payer": ask("ask-payer"),
    "ask-duties": ask("ask-duties"),
    "ask-return": act(
      z.object({ label: z.enum(["", "print", "mail"], { error: "wish.unknown" }) }),
      async (_, { label }, { key }) => {
        const change = { what: "return-label", label } as const
        const result = await changeGroup(work, work.warehouse, key, [orderId], change)
        const [refusal] = result.ok ? result.value.refused : []
        return refusal ? refused(...refusal.reasons) : result
      },
    ),
    "print-labels": act(
      z.object({ paper: field.many(field.id) }),
      (_, { paper }, { key }) => printPapers(work, orderId, paper, key),
      ({ n }) => say("ship.labels-printing", { n }),
    ),
    "mail-labels": act(
      z.object({ paper: field.many(field.id), to: field.text(), note: field.text(1_000) }),
      async (_, { paper, to, note }, { key }) => {
        const orderNumber = (await orderNumberOf(work.db, work.warehouse.id, orderId)) ?? ""
        const subject = say("ship.labels-subject", { orderNumber, sender: work.warehouse.sender[0] ?? "" })
        const body = [note, say("ship.labels-body", { orderNumber })].filter(Boolean).join("\n\n")
        return mailPapers(work, orderId, paper, { to, subject, body }, key)
      },
      ({ n }) => say("ship.labels-mailed", { n }),
    ),
    "test-label": act(
      z.object({ service: field.text(16) }),
      (_, { service }, { key }) => printTestLabels(work, orderId, service, key),
      ({ n }) => say("ship.test-printing", { n }),
    ),
    void: act(nothing, () => askVoid(work, orderId)),
    "give-up": act(nothing, () => always(giveUp(work, orderId))),
    buy: act(
      z.object({
        version: field.version,
        service: field.text(),
        amount: field.text(),
        currency: field.text(),
        leaves: field.text(),
        unprinted: field.tick,
      }),
      (_, { version, service, unprinted, ...expected }) =>
        buy(work, orderId, { version, serviceCode: service, expected, prints: !unprinted }),
      async ({ intentId }) => {
        await waitForAnswer(work.db, intentId, 3_000)
        return ""
      },
    ),
  }
}

/** What was counted of each line; a field that is left empty counts none. */
const countedIn = (form: FormData) =>
  new Map(
    [...form.entries()].flatMap(([name, value]) => {
      const line = /^line-(\d{1,10})$/.exec(name)?.[1]
      return line ? [[Number(line), value === "" ? 0 : Number(value)] as const] : []
    }),
  )

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
/** A package that was added is in hand. */
const last = (shipment: Shipment): ShipmentAnswer => ({ ...done(""), hand: shipment.packages.at(-1)?.number })
const added = (outcome: Outcome<Shipment>): ShipmentAnswer => (outcome.ok ? last(outcome.value) : answerOf(outcome))

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
async function suggested(
  work: Work,
  orderId: OrderId,
  boxes: string,
  fill: boolean,
  key: string,
): Promise<Outcome<Shipment>> {
  let body: unknown = null
  try {
    body = JSON.parse(boxes)
  } catch {
    // what can't be read is refused below
  }
  const read = suggestedSchema.safeParse(body)
  if (!read.success) return refused(reason("packing.not-right"))
  const opened = await openShipment(work, orderId)
  return opened.ok ? packSuggested(work, orderId, read.data, fill, key) : opened
}

const figure = (text: string): number | null =>
  /^\d{1,6}([.,]\d{1,4})?$/.test(text) ? Number(text.replace(",", ".")) : null
const notANumber: Outcome<Shipment> = { ok: false, reasons: [reason("pack.number-wanted")] }

const firstPallet = async ({ db }: Work): Promise<string> => (await palletType(db))?.code ?? ""

function edgesOf({ length: l, width: w, height: h, unit }: Record<keyof typeof edges, string>) {
  const texts = [l, w, h]
  if (texts.some((text) => figure(text) === null)) return null
  const read = (text: string) => length(text.replace(",", "."), unit === "cm" ? "cm" : "in")
  return { length: read(l), width: read(w), height: read(h) }
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
export async function shipmentScan(
  work: Work,
  orderId: OrderId,
  text: string,
  form: FormData,
): Promise<ShipmentAnswer> {
  const hand = Number(form.get("hand")) || null
  const out = Number(form.get("from")) || null
  const scanId = onceKey(form)
  const orderNumber = await orderNumberOf(work.db, work.warehouse.id, orderId)
  const view = orderNumber === null ? null : await shipmentViewOf(work, orderNumber)
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
