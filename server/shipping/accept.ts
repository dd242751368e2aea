import { addressLines } from "core/address/index.ts"
import { type LocalDate, localDate } from "core/calendar/index.ts"
import type { SlipModel } from "core/documents/index.ts"
import type { CollectionId, OrderId } from "core/ids/index.ts"
import { type Money, type MoneyText, money, moneyText } from "core/money/index.ts"
import { shareOut } from "core/money/share.ts"
import type { PaperKind } from "core/papers/index.ts"
import { reason } from "core/refusal/index.ts"
import { settingOf } from "core/rules/index.ts"
import type { Mass } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"
import { parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { Flag } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { keepDocument, type NewDocument, printDocument } from "../documents/index.ts"
import { papersToGo } from "../documents/ownPapers.ts"
import { tellInstructed } from "../edi/queue.ts"
import type { Booking } from "../gateways/carrier.ts"
import { keepPrediction } from "../measures/index.ts"
import { orderWeights } from "../packages/goods.ts"
import { handled, packagesOf, type Shipment, shipmentOf } from "../packages/shipment.ts"
import { dataPapers } from "../papers/data.ts"
import { drawPapers } from "../papers/drawn.ts"
import { type Carriage, labelModel } from "../papers/label.ts"
import { signatureOf } from "../papers/setUp.ts"
import { slipsOf } from "../papers/slip.ts"
import { counterCodePdf } from "../pdf/counterCode.ts"
import { labelPdf } from "../pdf/label.ts"
import { answeredAmount, type StoredRate } from "../rating/storedRate.ts"
import { reportLabelled } from "../reports/index.ts"
import { askingReturn } from "../returns/jobs.ts"
import { takeFromBalance } from "../setup/balance.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { noteAnswer } from "../shippingRuns/answered.ts"
import { tellAll } from "../telling/tell.ts"
import { followShipment } from "../tracking/units.ts"
import { boughtFacts } from "./boughtFacts.ts"

export interface Intent {
  readonly id: number
  readonly shipment_id: number
  readonly service_id: number
  readonly expected_amount: string
  readonly currency: string
  readonly tariff_version_id: number | null
  /** Whether labels and papers are printed as soon as they are made. */
  readonly prints: Flag
  readonly rate: unknown
  readonly request: unknown
  readonly user_id: number | null
  readonly bench_id: number | null
  readonly actor: string
}

/** The papers that are made when a shipment is bought. */
type MadeKind = PaperKind | "label" | "counter-code" | "own-paper" | "invoice-data" | "instruction-data"

interface Paper extends Pick<NewDocument, "name" | "bytes" | "language" | "electronic" | "media"> {
  readonly kind: MadeKind
  readonly copies?: number
  readonly package: number | null
  readonly model?: NewDocument["model"]
  readonly ownPaperId?: NewDocument["ownPaperId"]
}

/**
 * Writes a carrier's answer with labels, papers, charges and print jobs in one transaction; a second answer is nothing.
 * False where the intent is answered already, or somebody gave it up meanwhile: then nothing is written.
 */
export async function acceptBooking(db: Knex, intent: Intent, booking: Booking, carriage: Carriage): Promise<boolean> {
  const now = await businessNow(db)
  const { order_id: orderId } = there(await db("shipment").where({ id: intent.shipment_id }).first("order_id"))
  const seen = (await shipmentOf(db, orderId)) as Shipment
  const warehouse = await warehouseById(db, seen.warehouseId)
  const rate = parsed<StoredRate & { collectionId: CollectionId }>(intent.rate)
  const { on_date: shipDate } = there(await db("collection").where({ id: rate.collectionId }).first("on_date"))
  // what the carrier bills, where that differs by no more than is tolerated
  const answered = answeredAmount(rate, booking.charge.amount)
  const off = answered.sub(rate.contract)
  const currency = rate.exchange?.to ?? intent.currency
  const papers = await makePapers(db, intent, warehouse, seen, booking, carriage, rate, shipDate, now)
  return inTransaction(db, async (trx) => {
    const changed = await trx("buy_intent")
      .where({ id: intent.id, state: "open", give_up: false })
      .update({ state: "booked", answer: JSON.stringify(booking), answered_at: now })
    if (changed === 0) return false
    const collection = there(await trx("collection").where({ id: rate.collectionId }).first("id", "on_date"))
    await trx("shipment")
      .where({ id: intent.shipment_id })
      .update({
        state: "bought",
        trouble: null,
        collection_id: collection.id,
        ship_date: collection.on_date,
        master_tracking: booking.masterTrackingNumber,
        tariff_version_id: intent.tariff_version_id,
        currency,
        exchange: rate.exchange ? JSON.stringify(rate.exchange) : null,
        list_amount: rate.list,
        contract_amount: ours(rate, answered.toFixed()),
        charged_amount: rate.charged?.amount ?? null,
        charged_why: rate.charged ? JSON.stringify(rate.charged.why) : null,
        arrives_on: rate.arrival.date,
        bought_at: now,
      })
    const labelOf = new Map<number | null, number>()
    for (const paper of papers) {
      const documentId = await keepDocument(trx, {
        warehouseId: seen.warehouseId,
        kind: paper.kind,
        name: paper.name,
        bytes: paper.bytes,
        madeAt: now,
        orderId,
        intentId: intent.id,
        model: paper.model,
        ownPaperId: paper.ownPaperId,
        language: paper.language,
        electronic: paper.electronic,
        copies: paper.copies,
        media: paper.media,
      })
      if (paper.kind === "label") labelOf.set(paper.package, documentId)
      if (paper.kind === "instruction-data")
        await tellInstructed(trx, { warehouseId: seen.warehouseId, orderId, intentId: intent.id, documentId }, now)
      // with a code the carrier's counter prints the labels; ours are there where somebody wants them
      if (
        intent.prints &&
        !paper.electronic &&
        !(booking.counterCode && (paper.kind === "label" || paper.kind === "counter-code"))
      )
        await printDocument(trx, seen.warehouseId, documentId, paper.kind, paper.copies ?? 1, {
          userId: intent.user_id,
          benchId: intent.bench_id,
        })
    }
    for (const one of handled(seen.packages)) {
      const answered = numbersOf(booking, one.number)
      const labelled = {
        state: "labelled" as const,
        collection_id: collection.id,
        seen_at: now,
        seen_where: "bench",
      }
      await trx("package")
        .where({ id: one.id })
        .update({
          ...labelled,
          tracking: answered.trackingNumber,
          routing_code: answered.routingCode,
          label_document_id: labelOf.get(one.number) ?? null,
          sent_kg: one.actual.toFixed(12),
        })
      await trx("package").where({ parent_id: one.id, state: "closed" }).update(labelled)
    }
    await followShipment(trx, intent.shipment_id, now)
    await tellAll(trx, orderId, "shipped", now)
    for (const charge of rate.charges) {
      await trx("charge").insert({
        shipment_id: intent.shipment_id,
        intent_id: intent.id,
        code: charge.code,
        package_number: charge.package,
        currency,
        list_amount: charge.list,
        contract_amount: ours(rate, charge.contract),
        why: JSON.stringify(charge.why),
      })
    }
    if (!off.isZero()) await keepDifference(trx, intent, rate, off, now, orderId)
    await takeFromBalance(trx, intent, ours(rate, booking.charge.amount))
    const shares = await keepShares(trx, intent, seen, rate, answered.toFixed())
    for (const one of seen.members) {
      await keepPrediction(trx, warehouse, one.id, now)
      await reportLabelled(trx, one.id, intent.id, now)
      await trx("sales_order").where({ id: one.id }).update({ collection_id: collection.id, left_line_at: now })
      await record(trx, { userId: intent.user_id, name: intent.actor }, now, {
        action: seen.members.length > 1 ? "buy.booked-joined" : "buy.booked",
        orderId: one.id,
        detail: {
          service: carriage.service,
          amount: shares.get(one.id) ?? null,
          tracking: booking.masterTrackingNumber,
          packages: packagesOf(seen, one.id).length,
          orders: seen.members.map((member) => member.orderNumber).join(", "),
        },
      })
    }
    if (settingOf(seen.settled, "returnLabel"))
      await askingReturn.queue(trx, `return-with:${intent.id}`, { intentId: intent.id })
    await noteAnswer(trx, intent.id, null, now)
    return true
  })
}

/** A charge line of what the carrier bills more or less than we calculated, and its place in the order's story. */
async function keepDifference(
  trx: Knex,
  intent: Intent,
  rate: StoredRate,
  off: Decimal,
  now: Date,
  orderId: OrderId,
): Promise<void> {
  await trx("charge").insert({
    shipment_id: intent.shipment_id,
    intent_id: intent.id,
    code: "difference",
    package_number: null,
    currency: rate.exchange?.to ?? intent.currency,
    list_amount: "0",
    contract_amount: ours(rate, off.toFixed()),
    why: JSON.stringify([reason("why.difference", { figure: off.toFixed(2) })]),
  })
  await record(trx, { userId: intent.user_id, name: intent.actor }, now, {
    action: "buy.differed",
    orderId,
    detail: { expected: Number(rate.contract).toFixed(2), answered: new Decimal(rate.contract).add(off).toFixed(2) },
  })
}

/** What of a charge is our cost: nothing where another pays. */
const ours = (rate: Pick<StoredRate, "payer">, amount: string): string =>
  (rate.payer ?? "shipper") === "shipper" ? amount : "0"

/** Keeps each order's share of the freight, by the weight of its goods; their sum is what the carrier charges. */
async function keepShares(
  trx: Knex,
  intent: Intent,
  shipment: Shipment,
  rate: StoredRate,
  answered: string,
): Promise<Map<number, MoneyText>> {
  const weights = orderWeights(shipment)
  const currency = rate.exchange?.to ?? intent.currency
  const list = shareOut(money(rate.list, currency), weights)
  const contract = shareOut(money(ours(rate, answered), currency), weights)
  // as they were worked out, where some go free; else by weight
  const kept = rate.charged?.shares
  const charged =
    rate.charged &&
    (kept?.length === weights.length
      ? kept.map((share) => money(share, currency))
      : shareOut(money(rate.charged.amount, currency), weights))
  for (const [index, one] of shipment.members.entries())
    await trx("order_freight").insert({
      order_id: one.id,
      intent_id: intent.id,
      currency,
      list_amount: (list[index] as Money).amount.toFixed(),
      contract_amount: (contract[index] as Money).amount.toFixed(),
      charged_amount: charged?.[index]?.amount.toFixed() ?? null,
      weight_kg: (weights[index] as Mass).toFixed(12),
    })
  return new Map(shipment.members.map((one, index) => [one.id, moneyText(contract[index] as Money)]))
}

const numbersOf = (booking: Booking, number: number) =>
  booking.packages.find((one) => one.number === number) as Booking["packages"][number]
/** The same for the label, with the number of all together. */
const labelNumbers = (booking: Booking, number: number) => ({
  ...numbersOf(booking, number),
  master: booking.masterTrackingNumber,
})

/** Labels of all handled packages, the papers that the shipment needs, and what else goes with it. */
async function makePapers(
  db: Knex,
  intent: Intent,
  warehouse: Warehouse,
  shipment: Shipment,
  booking: Booking,
  carriage: Carriage,
  rate: StoredRate,
  shipDate: LocalDate,
  now: Date,
): Promise<Paper[]> {
  const papers: Paper[] = []
  // only where labels and slips come on one sheet
  const withSlips = await db("printer")
    .where({ warehouse_id: warehouse.id, form: "letter-slip", active: true })
    .first("id")
  const slips = withSlips ? ((await slipsOf(db, shipment.orderId)) ?? []) : []
  const handledOnes = handled(shipment.packages)
  for (const one of handledOnes) {
    const model = labelModel(warehouse, shipment, one, carriage, labelNumbers(booking, one.number), shipDate)
    papers.push({
      kind: "label",
      package: one.number,
      name: model.packageName,
      bytes: await labelPdf(model, now),
      model: { label: model, form: carriage.labelForm ?? "", slip: slipOf(slips, model.packageName) },
    })
  }
  const { facts, made } = await boughtFacts(db, intent, {
    warehouse,
    shipment,
    booking,
    rate,
    shipDate,
    today: localDate(now, warehouse.zone),
  })
  const picture = await signatureOf(db, warehouse.id)
  const drawn = await drawPapers(facts, made, { language: shipment.language, madeAt: now, picture })
  for (const { model: _, ...one } of drawn) papers.push({ ...one, package: null })
  for (const one of dataPapers(drawn, shipment, now)) papers.push({ ...one, package: null, electronic: true })
  if (booking.counterCode) {
    const bytes = await counterCodePdf(
      {
        code: booking.counterCode,
        carrier: carriage.carrier,
        service: carriage.service,
        order: shipment.orderNumber,
        packages: handledOnes.map((one) => `${shipment.orderNumber}-${one.number}`),
        receiver: addressLines(shipment.shipTo),
        shipDate,
      },
      now,
    )
    papers.push({ kind: "counter-code", package: null, name: booking.counterCode, bytes })
  }
  const packed = new Set(shipment.packages.flatMap((one) => one.lineIds))
  const orders = shipment.members.map((one) => one.id)
  for (const one of await papersToGo(db, orders, [...packed]))
    papers.push({ kind: "own-paper", package: null, name: one.name, bytes: Buffer.alloc(0), ownPaperId: one.id })
  return papers
}

/** The slip of a package, or the one of its whole shipment, which goes with its first label. */
const slipOf = (slips: readonly SlipModel[], name: string): SlipModel | null =>
  slips.find((one) => one.number === name) ?? (slips.length === 1 && name.endsWith("-1") ? (slips[0] ?? null) : null)
