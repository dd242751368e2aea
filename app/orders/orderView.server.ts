import { addressLines } from "core/address/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { allMinutes, isOnTheLine } from "core/orders/index.ts"
import { settingOf } from "core/rules/index.ts"
import { may, type Right } from "server/actors/index.ts"
import { addressFlags } from "server/addresses/flags.ts"
import { locate } from "server/addresses/places.ts"
import { type TimelineEntry, timeline } from "server/audit/index.ts"
import { joinedWith, joinOffers } from "server/decisions/join.ts"
import { ownPapersOf } from "server/documents/ownPapers.ts"
import { messageStatesOf } from "server/edi/list.ts"
import type { Work } from "server/http/context.ts"
import { pendingChange } from "server/intake/change.ts"
import { recordOf, sourceById } from "server/intake/source.ts"
import { pickingBegun } from "server/orders/begun.ts"
import { type OrderSummary, summaryByNumber } from "server/orders/facts.ts"
import { marksOf } from "server/orders/marks.ts"
import { partiesOf } from "server/orders/parties.ts"
import { partsOf } from "server/orders/parts.ts"
import { waivable } from "server/orders/passed.ts"
import { orderLines, orderRow, referencesOf } from "server/orders/row.ts"
import { canSplit, neededOf, warehouseFits } from "server/orders/warehouses.ts"
import { carriersElsewhere } from "server/outside/elsewhere.ts"
import { handedTo } from "server/outside/handed.ts"
import { outsideOrder, outsideWarehouses } from "server/outside/index.ts"
import { type Shipment, shipmentOf } from "server/packages/shipment.ts"
import { sentBy } from "server/plan/sentWith.ts"
import type { Offer } from "server/rating/offers.ts"
import { freightOf } from "server/reports/freight.ts"
import { reportState } from "server/reports/index.ts"
import { patternRows } from "server/rules/book.ts"
import { settledOf } from "server/rules/settleOrder.ts"
import { collectionById } from "server/setup/collections.ts"
import { serviceById } from "server/setup/services.ts"
import { offersFor } from "server/shipping/buy.ts"
import { freightLineOf } from "server/shipping/freightLine.ts"
import { receiverPath } from "server/telling/links.ts"
import { messagesOf } from "server/telling/list.ts"
import { attachable, tellingOf } from "server/telling/manage.ts"
import { recipientsOf } from "server/telling/tell.ts"
import { unitsOf } from "server/tracking/read.ts"
import { returnsView } from "../parts/returns.server.ts"
import { settingChoices } from "../parts/settingChoices.server.ts"
import { nameFields, shipToFields } from "../parts/shipToFields.ts"
import { whereWorkStands } from "../shell/scan.server.ts"
import { dayOf } from "../shell/work.ts"
import type { JoinOfferShown } from "./JoinOffers.tsx"
import { joinOfferShown } from "./joinOffers.server.ts"
import type { TellingShown } from "./TellCustomer.tsx"

/** Everything that an order's page shows, as plain data. Null when no order here has the number. */
export async function orderView(work: Work, orderNumber: string) {
  const order = await summaryByNumber(work.db, work.warehouse, orderNumber)
  if (!order) return null
  const row = await orderRow(work.db, work.warehouse.id, order.id)
  const lines = await orderLines(work.db, order.id)
  const shipment = await shipmentOf(work.db, order.id)
  const ownLines = new Set(shipment?.lines.filter((line) => line.orderId === order.id).map((line) => line.id))
  const story = await timeline(work.db, order.id)
  const source = await sourceById(work.db, row.source_id)
  const tracked = await unitsOf(work.db, work.warehouse.id, order.id)
  const delivered = new Set(tracked.flatMap((unit) => (unit.state === "delivered" ? [unit.name] : [])))
  const day = order.stops.length > 0 ? await dayOf(work) : null
  const stopped = day?.stopped.find((one) => one.id === order.id)
  return {
    id: order.id,
    orderNumber: order.orderNumber,
    customer: order.customer,
    po: order.poNumber,
    source: order.sourceNumber,
    stage: order.stage,
    stops: order.stops.map((reason) => ({
      reason,
      waivable: reason.code in waivable,
      mayPass: waivable[reason.code] ? may(work.actor, (waivable[reason.code] as { right: Right }).right) : false,
      intakeId: (row.intake_id as number | null) ?? null,
    })),
    solveBy: stopped?.solveBy ?? null,
    door: day?.collections.find((one) => one.id === order.collectionId)?.door ?? null,
    change: may(work.actor, "packing.see") ? await pendingChange(work.db, order.id) : null,
    from: source.name,
    record: recordOf(source, order.sourceNumber, row.record_url),
    references: await referencesOf(work.db, order.id),
    notes: row.notes as string,
    marks: await marksOf(work.db, order.id),
    ownPapers: may(work.actor, "packing.see") ? await ownPapersOf(work.db, "order", [order.id]) : [],
    returns: await returnsView(work, order.id),
    mayCancel: may(work.actor, "orders.cancel"),
    settled: settledOf(row),
    priority: Number(row.priority),
    patternId: (row.pattern_id as number | null) ?? null,
    patterns: (await patternRows(work.db)).map((one) => ({ id: one.id, name: one.name })),
    choices: await settingChoices(work.db),
    promised: order.promisedOn,
    to: may(work.actor, "packing.see") ? whereWorkStands(order) : `/orders/${order.orderNumber}`,
    held: !!row.held_by_hand,
    abroad: row.country !== work.warehouse.country,
    currency: row.currency as string,
    mayRelease: may(work.actor, "orders.release-hold"),
    mayWork: may(work.actor, "orders.work"),
    seesFloor: may(work.actor, "packing.see"),
    address: {
      version: row.version as number,
      kind: row.address_kind as string,
      ...Object.fromEntries(shipToFields.map((name) => [name, String(row[name] ?? "")])),
    } as Record<string, string | number>,
    kindConfirmed: !!row.kind_confirmed,
    parties: (await partiesOf(work.db, { id: order.id, customer_id: row.customer_id })).map(
      ({ role, by, email, ...address }) => ({
        role,
        by,
        email,
        lines: addressLines({ ...address, kind: "unknown" }),
        fields: Object.fromEntries(
          nameFields.map((name) => [name, name === "postal_code" ? address.postalCode : address[name]]),
        ),
      }),
    ),
    home: work.warehouse.country,
    flags: await addressFlags(work.db, row),
    zone: locate(row.country, row.postal_code).zone,
    mayChangeLines: isOnTheLine(order.stage) && may(work.actor, "orders.override"),
    lines: lines.map((line) => ({
      id: line.id,
      packed: shipment?.lines.find((one) => one.id === line.id)?.packed ?? 0,
      number: line.line_number,
      sku: line.sku,
      description: line.description,
      ordered: line.ordered,
    })),
    where: {
      fits: isOnTheLine(order.stage) && may(work.actor, "orders.work") ? await fitsOf(work, order.id, row) : [],
      here: work.warehouse.id,
      parts: (await partsOf(work.db, order.id)).map((one) => ({ ...one, here: one.id === order.id })),
      outside: await outsideOrder(work.db, order.id),
      outsides: isOnTheLine(order.stage) ? await outsideWarehouses(work.db) : [],
      begun: (await pickingBegun(work.db, [order.id])).size > 0,
    },
    handed: await handedTo(work.db, order.id),
    carriersElsewhere:
      isOnTheLine(order.stage) && may(work.actor, "orders.work") ? await carriersElsewhere(work.db) : [],
    plan: isOnTheLine(order.stage) ? await planShown(work, order, shipment, row) : null,
    sent: await sentShown(work, shipment),
    joined: await joinedWith(work.db, order.id),
    joinOffer: may(work.actor, "packing.see") ? await offerFor(work, order) : null,
    packages: (shipment?.packages ?? [])
      .filter((one) => order.lead === null || one.lineIds.some((id) => ownLines.has(id)))
      .map((one) => ({
        name: `${shipment?.orderNumber}-${one.number}`,
        state: delivered.has(`${shipment?.orderNumber}-${one.number}`) ? ("delivered" as const) : one.state,
        tracking: one.tracking,
        label: may(work.actor, "packing.see") ? one.labelDocumentId : null,
      })),
    tracked,
    freight: await freightShown(work, order.id),
    freightLine: await freightLineOf(work.db, order.id),
    mayCharge: may(work.actor, "charging.override"),
    key: crypto.randomUUID(),
    telling: await tellingShown(work, order.id),
    report: await reportState(work.db, order.id),
    messages: may(work.actor, "packing.see") ? await messageStatesOf(work.db, work.warehouse.id, order.id) : null,
    // the sales desk sees what became of an order, not what its shipment cost
    story: may(work.actor, "packing.see") ? story : story.filter(tellsNoCost).map(withoutAmount),
  }
}

export type OrderView = NonNullable<Awaited<ReturnType<typeof orderView>>>

/**
 * What the order is sent with and leaves with, and by which collection at the latest to keep its promise: as the bench
 * proposes it once something is packed, as planned before.
 */
async function planShown(
  work: Work,
  order: OrderSummary,
  shipment: Shipment | null,
  row: {
    readonly planned_service_id: number | null
    readonly chosen_service_id: number | null
    readonly settings?: unknown
  },
) {
  const departing = async (id: number | null) => {
    const one = id === null ? null : await collectionById(work.db, work.warehouse.id, id)
    return one && { door: one.door, onDate: one.onDate, cutOff: one.cutOff }
  }
  const packed = shipment?.state === "open" && shipment.packages.some((one) => one.contents.length > 0)
  const offer = packed && shipment ? (await offersFor(work.db, work.warehouse, shipment, work.now)).preselected : null
  const planned = offer ? null : row.planned_service_id
  const service = planned === null ? null : await serviceById(work.db, planned)
  const settled = settingOf(shipment?.settled ?? settledOf(row), "service")
  const by = offer?.service ?? service
  return {
    service: by?.name ?? null,
    by: by && sentBy({ service: by as Offer["service"] }, row, settled),
    leaves: offer?.collection
      ? { door: offer.collection.door, onDate: offer.collection.onDate, cutOff: offer.collection.cutOff }
      : await departing(order.collectionId),
    must: await departing(order.mustCollectionId),
    minutes: Math.round(allMinutes(order.left)),
  }
}

/** The order's freight; the sales desk sees what is charged alone. */
async function freightShown(work: Work, orderId: OrderId) {
  const freight = await freightOf(work.db, orderId)
  return freight && (may(work.actor, "packing.see") ? freight : { ...freight, cost: null, list: null })
}

/** What is said to the customer of an order, to whom it goes, and what went. */
async function tellingShown(work: Work, orderId: OrderId): Promise<TellingShown> {
  return {
    ...(await tellingOf(work.db, orderId)),
    goesTo: (await recipientsOf(work.db, orderId, "left")).map((one) => one.address),
    messages: await messagesOf(work.db, work.warehouse.id, orderId),
    page: await receiverPath(work.db, orderId),
    attachable: [...attachable],
  }
}

/** The service whose labels are bought, and the day on which it arrives; null before that. */
async function sentShown(work: Work, shipment: Shipment | null) {
  if (!shipment?.serviceId || !["bought", "voiding"].includes(shipment.state)) return null
  const service = await serviceById(work.db, shipment.serviceId)
  return service && { service: service.name, arrivesOn: shipment.arrivesOn }
}

/** What the warehouses have of an order, and how far each is. */
async function fitsOf(work: Work, orderId: OrderId, row: { country: string; postal_code: string }) {
  const fits = await warehouseFits(work.db, { ...row, id: orderId }, await neededOf(work.db, orderId))
  const here = fits.find((fit) => fit.id === work.warehouse.id)
  return fits.map((fit) => ({
    ...fit,
    missing: fit.missing.map((one) => one.sku),
    splits: here !== undefined && fit !== here && canSplit(here, fit),
  }))
}

/** Whether the order is worth combining with others of its ship-to, as the page shows it. */
async function offerFor(work: Work, order: OrderSummary): Promise<JoinOfferShown | null> {
  if (order.stops.length > 0 || !isOnTheLine(order.stage)) return null
  const [offer] = await joinOffers(work, work.warehouse.id, order.id)
  return offer ? joinOfferShown(offer) : null
}

/** Refused bookings name prices in their reasons. */
const tellsNoCost = (entry: TimelineEntry): boolean =>
  !["buy.refused", "buy.differs", "buy.differed"].includes(entry.action)
const withoutAmount = (entry: TimelineEntry): TimelineEntry => ({
  ...entry,
  detail: { ...entry.detail, amount: null },
})
