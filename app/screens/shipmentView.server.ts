import { showSscc } from "core/barcodes/index.ts"
import { moneyText } from "core/money/index.ts"
import { suggestPackaging } from "core/packing/index.ts"
import { nextStop } from "core/picking/index.ts"
import { lengthIn, massIn, type Size, showMass, showSize } from "core/units/index.ts"
import type { Work } from "server/http/context.ts"
import { summaryByBench } from "server/orders/facts.ts"
import { packagingTypes } from "server/packing/catalogue.ts"
import { type Shipment, type ShipmentPackage, shipmentOrDraft, unpacked } from "server/packing/shipment.ts"
import { pickStops } from "server/picking/index.ts"
import type { Comparison, Offer } from "server/rating/offers.ts"
import { collectionById } from "server/setup/collections.ts"
import { offersFor } from "server/shipping/buy.ts"

/** Everything the shipment's screen shows, as plain data: from lines to label. Null when no order has the number. */
export async function shipmentView(work: Work, bench: string) {
  const { db, warehouse, now } = work
  const order = await summaryByBench(db, warehouse, bench)
  if (!order) return null
  const shipment = await shipmentOrDraft(db, order.id)
  const types = await packagingTypes(db)
  const comparison: Comparison =
    shipment && shipment.packages.length > 0 && shipment.state !== "bought"
      ? await offersFor(db, warehouse, shipment, now)
      : { offers: [], preselected: null }
  const suggestion = shipment ? suggestPackaging(types, unpacked(shipment)) : null
  const collection = order.collectionId ? await collectionById(db, shipment?.collectionId ?? order.collectionId) : null
  const printed = await db("print_job")
    .join("document", "document.id", "print_job.document_id")
    .where({ "document.order_id": order.id, "document.kind": "label", "print_job.state": "printed" })
    .countDistinct({ n: "document.id" })
    .first()
  const trouble = await db("print_job")
    .join("document", "document.id", "print_job.document_id")
    .where({ "document.order_id": order.id, "print_job.state": "waiting" })
    .whereNotNull("trouble")
    .first("trouble")
  const bought = shipment?.serviceId
    ? await db("service")
        .join("carrier", "carrier.id", "service.carrier_id")
        .where({ "service.id": shipment.serviceId })
        .first("service.name", "carrier.name as carrier")
    : null
  const stops = await pickStops(db, order.id)
  const billedOf = comparison.preselected?.rate?.billed ?? []
  return {
    orderId: order.id,
    bench,
    customer: order.customer,
    place: order.place,
    poNumber: order.poNumber,
    promisedOn: order.promisedOn,
    stage: order.stage,
    stopped: order.stops,
    toPick: stops.reduce((sum, stop) => sum + stop.quantity - stop.picked, 0),
    nextPick: nextStop(stops)?.bin ?? null,
    collection: collection
      ? { id: collection.id, door: collection.door, cutOff: collection.cutOff, closed: collection.closedAt !== null }
      : null,
    state: shipment?.state ?? "open",
    version: shipment?.version ?? 0,
    notes: shipment?.notes ?? "",
    trouble: shipment?.trouble ?? null,
    kind: shipment?.shipTo.kind ?? "unknown",
    shipTo: shipment
      ? [shipment.shipTo.street, `${shipment.shipTo.city} ${shipment.shipTo.state} ${shipment.shipTo.postalCode}`]
      : [],
    lines: (shipment?.lines ?? []).map((line) => ({
      id: line.id,
      letter: line.letter,
      sku: line.sku,
      description: line.description,
      ordered: line.ordered,
      picked: line.picked,
      packed: line.packed,
      bins: line.bins,
      lots: line.lots,
      levels: line.levels,
    })),
    packages: (shipment?.packages ?? []).map((one) =>
      packageView(
        shipment as Shipment,
        one,
        billedOf.find((billed) => billed.package === one.number)?.billed.toString() ?? null,
      ),
    ),
    catalogue: types.map((type) => ({ code: type.code, name: type.name, size: showSize(type.inner, "in") })),
    suggestion: suggestion ? { code: suggestion.code, name: suggestion.name } : null,
    offers: comparison.offers.map((offer, index) => offerView(offer, index + 1, offer === comparison.preselected)),
    bought:
      shipment?.state === "bought" && bought
        ? {
            service: bought.name,
            amount: { amount: Number(shipment.contract).toFixed(2), currency: shipment.currency ?? "USD" },
            tracking: shipment.masterTracking ?? "",
            arrivesOn: shipment.arrivesOn ?? "",
          }
        : null,
    buyingFrom: shipment?.state === "buying" ? (bought?.carrier ?? "") : null,
    printed: Number(printed?.n ?? 0),
    printTrouble: trouble?.trouble ?? null,
  }
}

export type ShipmentView = NonNullable<Awaited<ReturnType<typeof shipmentView>>>
export type PackageView = ShipmentView["packages"][number]
export type OfferView = ShipmentView["offers"][number]

const inches = (size: Size) => ({
  length: lengthIn(size.length, "in").toNumber(),
  width: lengthIn(size.width, "in").toNumber(),
  height: lengthIn(size.height, "in").toNumber(),
})

function packageView(shipment: Shipment, one: ShipmentPackage, billed: string | null) {
  return {
    id: one.id,
    number: one.number,
    name: `${shipment.bench}-${one.number}`,
    packaging: one.packaging,
    state: one.state,
    sscc: one.sscc ? showSscc(one.sscc) : null,
    tracking: one.tracking,
    label: one.labelDocumentId,
    weight: showMass(one.actual, "lb"),
    weightKg: showMass(one.actual, "kg"),
    calculated: showMass(one.calculated, "lb"),
    measured: one.measured ? massIn(one.measured, "lb").toDecimalPlaces(2).toString() : null,
    billed,
    size: showSize(one.outer, "in"),
    sizeCm: showSize(one.outer, "cm"),
    edges: inches(one.outer),
    sizeByHand: one.sizeByHand,
    flaws: one.flaws,
    contents: one.contents.map((content, index) => ({
      lineId: one.lineIds[index] as number,
      line: content.line,
      quantity: content.quantity,
      ...inches(content.item.unitSize),
      weight: massIn(content.item.unitWeight, "lb").toNumber(),
    })),
  }
}

function offerView(offer: Offer, numeral: number, preselected: boolean) {
  const { rate } = offer
  const sum = (codes: (code: string) => boolean) =>
    rate
      ? rate.charges
          .filter((charge) => codes(charge.code))
          .reduce((total, charge) => total + Number(moneyText(charge.contract).amount), 0)
          .toFixed(2)
      : ""
  return {
    numeral,
    code: offer.service.code,
    name: offer.service.name,
    carrier: offer.service.carrier,
    door: offer.collection?.door ?? null,
    leaves: offer.collection?.onDate ?? null,
    refusals: offer.refusals,
    unbeaten: offer.unbeaten,
    late: offer.late,
    down: offer.down,
    preselected,
    zone: rate?.zone ?? "",
    arrives: rate ? { date: rate.arrival.date, time: rate.arrival.time } : null,
    base: sum((code) => code === "base"),
    fuel: sum((code) => code === "fuel"),
    extra: sum((code) => code !== "base" && code !== "fuel"),
    contract: rate ? moneyText(rate.contract) : null,
    list: rate ? moneyText(rate.list) : null,
    charges: rate
      ? rate.charges.map((charge) => ({
          code: charge.code,
          amount: moneyText(charge.contract),
          why: { code: charge.why.code, values: { ...charge.why.values, package: String(charge.package ?? "") } },
        }))
      : [],
  }
}
