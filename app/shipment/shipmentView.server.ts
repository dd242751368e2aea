import { addressLines } from "core/address/index.ts"
import { showSscc } from "core/barcodes/index.ts"
import { localDate } from "core/calendar/index.ts"
import { moneyText } from "core/money/index.ts"
import {
  buildPallets,
  fitsInside,
  goesAsFreight,
  type PackagingType,
  type Place,
  suggestPackaging,
} from "core/packing/index.ts"
import { nextStop } from "core/picking/index.ts"
import { hiddenBy } from "core/preferences/index.ts"
import { settingOf } from "core/rules/index.ts"
import { length, lengthIn, mass, massIn, type Size, showMass, showSize } from "core/units/index.ts"
import { may } from "server/actors/index.ts"
import { bySaving } from "server/advice/advice.ts"
import { adviceOn, joinAdvice } from "server/advice/shipment.ts"
import { takenOf } from "server/advice/take.ts"
import { parsed } from "server/audit/index.ts"
import type { JoinedFor } from "server/decisions/join.ts"
import { labelsPrinted } from "server/documents/index.ts"
import type { Work } from "server/http/context.ts"
import { onceForEachChange } from "server/live/kept.ts"
import { type OrderSummary, summaries, summaryByNumber } from "server/orders/facts.ts"
import { marksOf } from "server/orders/marks.ts"
import { partsOf } from "server/orders/parts.ts"
import {
  flawKey,
  handled,
  type Shipment,
  type ShipmentPackage,
  shipmentOrDraft,
  unpacked,
} from "server/packages/shipment.ts"
import { packagingStock } from "server/packages/used.ts"
import { packagingTypes, palletIn } from "server/packaging/catalog.ts"
import { lotsTold } from "server/packing/lots.ts"
import { scalesOf } from "server/packing/scales.ts"
import { loadsOf, plannedStill, suggestionInput } from "server/packing/suggestion.ts"
import { pickStops } from "server/picking/index.ts"
import { plannedRows } from "server/plan/plannedRows.ts"
import { shipDays } from "server/plan/shipDate.ts"
import { type Offer, proposed } from "server/rating/offers.ts"
import { collectionById, openCollections } from "server/setup/collections.ts"
import { preferencesAt, worksAt } from "server/setup/preferences.ts"
import { serviceById } from "server/setup/services.ts"
import { givingUp, offersFor, type Rated } from "server/shipping/buy.ts"
import { ladingAtCollection } from "server/shipping/collected.ts"
import { otherwise } from "server/shipping/otherwise.ts"
import { dataOf, papersInForce } from "server/shipping/papersOut.ts"
import { labelsGoTo } from "server/shipping/printsTo.ts"
import { variantsOf } from "server/shipping/variants.ts"
import { offeredPapers } from "../parts/printed.server.ts"
import { returnsView } from "../parts/returns.server.ts"
import { papersToMake } from "./papersView.server.ts"
import { offersView, ratedOf, routePlaces, wishesView } from "./rateView.server.ts"

/** What is stored about a shipment and what it needs: asked for together, as far as one answer does not need another. */
async function readAt(work: Work, order: OrderSummary) {
  const { db, warehouse, now } = work
  const [shipment, labels, papers, data, { types, stockOf, scales }, marks, open] = await Promise.all([
    shipmentOrDraft(db, order.id),
    labelsPrinted(db, order.id),
    papersInForce(db, order.lead?.id ?? order.id),
    dataOf(db, order.lead?.id ?? order.id),
    onceForEachChange(work, warehouse.id, "packing bench", async () => {
      const [types, stockOf, scales] = await Promise.all([
        packagingTypes(db),
        packagingStock(db, warehouse.id),
        scalesOf(db, warehouse.id),
      ])
      return { types, stockOf, scales }
    }),
    marksOf(db, order.id),
    openCollections(db, warehouse.id, now).then((all) => all.filter((one) => one.dropOff === null)),
  ])
  const members = (shipment?.members ?? [{ id: order.id, orderNumber: order.orderNumber }]).map((one) => ({
    id: one.id,
    orderNumber: one.orderNumber,
  }))
  const lead = shipment?.orderId ?? order.id
  const [planned, collection, bought, stops, stopped, parts] = await Promise.all([
    plannedRows(db, lead),
    order.collectionId ? collectionById(db, warehouse.id, shipment?.collectionId ?? order.collectionId) : null,
    shipment?.serviceId ? serviceById(db, shipment.serviceId) : null,
    Promise.all(members.map((one) => pickStops(db, one.id))),
    members.length === 1
      ? [order]
      : summaries(db, warehouse, (query) =>
          query.whereIn(
            "o.id",
            members.map((one) => one.id),
          ),
        ),
    partsOf(db, lead),
  ])
  return {
    shipment,
    types,
    labels,
    papers,
    data,
    stockOf,
    scales,
    marks,
    days: shipDays(open, localDate(now, warehouse.zone)),
    rows: planned.order,
    collection,
    bought,
    members,
    stops: stops.flat(),
    stopped,
    parts,
    left: shipment ? unpacked(shipment) : [],
  }
}

/** What the shipment costs by each service, once something is packed, and with other cartons. */
async function rate(work: Work, shipment: Shipment | null) {
  const { db, warehouse, now } = work
  const ratable =
    shipment?.packages.some((one) => one.contents.length > 0) && ["open", "buying"].includes(shipment.state)
  if (!ratable || !shipment) return { rated: null, other: null, said: [] }
  // trucks leave by the minute; whoever buys is rated again
  const minute = Math.floor(now.getTime() / 60_000)
  const name = `rates ${shipment.id} ${shipment.version} ${minute}`
  const all: Rated = await onceForEachChange(work, warehouse.id, name, () => offersFor(db, warehouse, shipment, now))
  // what the person or the bench hides is not proposed to them; what it costs is the same
  const said = await preferencesAt(db, worksAt(work))
  const facts = { ...shipment, settledService: settingOf(shipment.settled, "service") }
  const rated = { ...all, preselected: proposed(all.offers, facts, (service) => hiddenBy(said, service) !== null) }
  return { rated, other: await otherwise(db, rated, shipment), said }
}

/** The carton that is offered to begin with: a pallet for freight, what was settled where all fits, else by size. */
function suggestedCarton(
  types: readonly PackagingType[],
  shipment: Shipment | null,
  left: ReturnType<typeof unpacked>,
): PackagingType | null {
  if (left.some((one) => goesAsFreight(one.item))) return palletIn(types)
  const settled = types.find((type) => type.code === settingOf(shipment?.settled ?? {}, "packaging"))
  return settled && left.every((one) => fitsInside(one.item.unitSize, settled.inner))
    ? settled
    : suggestPackaging(types, left)
}

/** The same by the number of the order; null where none has it. */
export async function shipmentViewOf(work: Work, orderNumber: string): Promise<ShipmentView | null> {
  const order = await summaryByNumber(work.db, work.warehouse, orderNumber)
  return order && shipmentView(work, order)
}

/** Everything the shipment's screen shows, as plain data: from lines to label. */
export async function shipmentView(
  work: Work,
  order: OrderSummary,
  wanted: string | null = null,
  withVariants = false,
) {
  const { warehouse, db } = work
  const { orderNumber } = order
  const at = await readAt(work, order)
  const { shipment, rows, types, collection, labels, papers, bought, members, stops, stopped, stockOf, left } = at
  const { rated, other, said } = await rate(work, shipment)
  const offers = rated?.offers ?? []
  const preselected = rated?.preselected ?? null
  const chosen = offers.find((one) => one.service.code === wanted && one.rate) ?? preselected
  const suggestion = suggestedCarton(types, shipment, left)
  const units = shipment && shipment.shipTo.country !== warehouse.country ? metric : imperial
  const lotsOf = shipment ? lotsTold(shipment) : new Map<number, Record<string, never>>()
  // figures of packages that are not built yet are nobody's here
  const billedOf = preselected?.needs === null ? preselected : null
  return {
    /** What forms of this page are known by when they are sent; see `onceKey`. */
    key: crypto.randomUUID(),
    /** What a suggestion is made from, in the browser; null where nothing is to be packed into cartons. */
    toSuggest:
      shipment &&
      shipment.state === "open" &&
      left.some((one) => !goesAsFreight(one.item)) &&
      // who took a carton without a plan packs as he likes
      shipment.packages.every((one) => one.state === "open" && Object.keys(one.planned).length > 0)
        ? await suggestionInput(db, shipment)
        : null,
    /** Pieces that open packages are still to be given by their plans. */
    plannedLeft: shipment
      ? shipment.lines.reduce(
          (sum, line) => sum + Math.min(line.picked - line.packed, plannedStill(shipment, line.id)),
          0,
        )
      : 0,
    scales: at.scales,
    mayOverride: may(work.actor, "orders.override"),
    orderId: order.id,
    orderNumber,
    customer: order.customer,
    place: order.place,
    poNumber: order.poNumber,
    promisedOn: order.promisedOn,
    shipDate: {
      /** Set at the bench; else what it follows from: the day that was asked for, or a truck that somebody chose. */
      chosen: rows.chosen_ship_on,
      asked: rows.ship_on,
      truck: shipment?.leaving.collectionId ? shipment.leaving.shipOn : null,
      days: at.days,
    },
    stage: order.stage,
    members,
    /** What the orders were joined for: together, and what they would have cost apart. */
    joinedFor: rows.joined_for && members.length > 1 ? parsed<JoinedFor>(rows.joined_for) : null,
    /** The order in parts, of which this is one; none where it is whole. */
    parts: at.parts.map((one) => ({
      orderNumber: one.orderNumber,
      warehouse: one.warehouseId === warehouse.id ? "" : one.warehouse,
    })),
    stopped: stopped.flatMap((one) => one.stops),
    toPick: stops.reduce((sum, stop) => sum + stop.quantity - stop.picked, 0),
    nextPick: nextStop(stops)?.bin ?? null,
    collection: collection
      ? {
          id: collection.id,
          door: collection.door,
          onDate: collection.onDate,
          cutOff: collection.cutOff,
          closed: collection.closedAt !== null,
        }
      : null,
    state: shipment?.state ?? "open",
    units,
    abroad: units === metric,
    terms: shipment?.terms ?? { incoterm: "", place: "" },
    settled: shipment?.settled ?? {},
    /** Packages that are handled and counted by themselves. */
    pieces: handled(shipment?.packages ?? []).length,
    version: shipment?.version ?? 0,
    notes: shipment?.notes ?? "",
    marks: at.marks,
    trouble: shipment?.trouble ?? null,
    kind: shipment?.shipTo.kind ?? "unknown",
    shipTo: shipment ? addressLines({ ...shipment.shipTo, company: "", attention: "" }) : [],
    lines: (shipment?.lines ?? []).map((line) => ({
      id: line.id,
      letter: line.letter,
      order: members.length > 1 ? (members.find((one) => one.id === line.orderId)?.orderNumber ?? "") : "",
      sku: line.sku,
      description: line.description,
      ordered: line.ordered,
      picked: line.picked,
      packed: line.packed,
      bins: line.bins,
      lots: line.lots,
      ownCarton:
        line.piece.item.ownCarton || line.levels.some((level) => level.count > 1 && level.count <= line.picked),
      levels: line.levels,
      /** Pieces of the case that it was ordered in, which is kept whole; null: it was ordered by the piece. */
      whole: line.piece.item.whole?.pieces ?? null,
    })),
    packages: (shipment?.packages ?? []).map((one) =>
      packageView(shipment as Shipment, one, units, types, ratedOf(billedOf, one.number), lotsOf.get(one.number) ?? {}),
    ),
    floorPapers: offeredPapers(shipment?.packages ?? []),
    catalogue: types
      .filter((type) => type.active)
      .map((type) => ({
        low: stockOf.get(type.id)?.low ? (stockOf.get(type.id)?.onHand ?? 0) : null,
        code: type.code,
        name: type.name,
        kind: type.kind,
        size: showSize(type.inner, units.length),
      })),
    suggestion: suggestion ? { code: suggestion.code, name: suggestion.name, kind: suggestion.kind } : null,
    offers: rated && shipment ? offersView(rated, shipment, said) : [],
    variants: withVariants && shipment && rated ? await variantsOf(work, rated, shipment) : [],
    otherwise: other?.offer.rate
      ? {
          boxes: other.boxes.map((box) => ({ code: box.code })),
          service: other.offer.service.name,
          cost: moneyText(other.offer.rate.contract),
        }
      : null,
    advice:
      rated && shipment
        ? bySaving([...adviceOn(rated, shipment, chosen, other), ...(await joining(work, rated, shipment, chosen))])
        : [],
    /** What was taken last of it and can be taken back, in words. */
    taken: shipment?.state === "open" ? ((await takenOf(db, shipment.orderId))?.words ?? null) : null,
    /** The papers that it needs before it is bought; null: none but its labels. */
    toMake: await papersToMake(work, shipment, chosen),
    places: shipment && rated ? routePlaces(warehouse, shipment) : null,
    mayCharge: may(work.actor, "charging.override"),
    wishes: shipment && rated ? wishesView(rated, shipment, chosen) : null,
    bought:
      (shipment?.state === "bought" || shipment?.state === "voiding") && bought
        ? {
            mayVoid: shipment.packages.every((one) => one.state !== "on-truck" && one.state !== "gone"),
            voidHours: Math.round(bought.void_minutes / 60),
            service: bought.name,
            amount: { amount: Number(shipment.contract).toFixed(2), currency: shipment.currency ?? "USD" },
            tracking: shipment.masterTracking ?? "",
            arrivesOn: shipment.arrivesOn ?? "",
          }
        : null,
    papers,
    /** What is typed into its bill of lading when the truck is there; null: it has none. */
    collected: shipment ? await ladingAtCollection(db, shipment) : null,
    /** The same for other programs. */
    data: at.data,
    printsTo: papers.length > 0 ? await labelsGoTo(work, shipment) : null,
    returns: shipment ? await returnsView(work, shipment.orderId) : null,
    givingUp: shipment?.state === "buying" && (await givingUp(db, shipment.id)),
    buyingFrom: shipment?.state === "buying" || shipment?.state === "voiding" ? (bought?.carrier ?? "") : null,
    printed: labels.printed,
    printTrouble: labels.trouble,
  }
}

export type ShipmentView = Awaited<ReturnType<typeof shipmentView>>
export type PackageView = ShipmentView["packages"][number]
export type { OfferView } from "./rateView.server.ts"

const inches = (size: Size) => ({
  length: lengthIn(size.length, "in").toNumber(),
  width: lengthIn(size.width, "in").toNumber(),
  height: lengthIn(size.height, "in").toNumber(),
})

/** What joining others would save, asked once for each change: it prices whole orders. */
const joining = (work: Work, rated: Rated, shipment: Shipment, chosen: Offer | null) =>
  onceForEachChange(work, work.warehouse.id, `joining ${shipment.id} ${shipment.version} ${chosen?.service.code}`, () =>
    joinAdvice(work, rated, shipment, chosen),
  )

/** Figures at home are in pounds and inches, those of a shipment abroad in kilograms and centimetres. */
const imperial = { mass: "lb", length: "in" } as const
const metric = { mass: "kg", length: "cm" } as const
type Units = typeof imperial | typeof metric

function packageView(
  shipment: Shipment,
  one: ShipmentPackage,
  units: Units,
  types: readonly PackagingType[],
  billed: ReturnType<typeof ratedOf>,
  lots: Readonly<Record<string, readonly { readonly code: string; readonly quantity: number }[]>>,
) {
  const other = units === metric ? imperial : metric
  const cartons = shipment.packages.filter((pack) => pack.on === one.number)
  const places = one.kind === "pallet" ? standingOn(one, cartons, types) : []
  return {
    id: one.id,
    number: one.number,
    name: `${shipment.orderNumber}-${one.number}`,
    packaging: one.packaging,
    kind: one.kind,
    on: one.on,
    cartons: cartons.map((pack) => ({ number: pack.number, weight: showMass(pack.actual, units.mass) })),
    front: frontOf(places),
    load: loadOn(one, places, types),
    state: one.state,
    sscc: one.sscc ? showSscc(one.sscc) : null,
    tracking: one.tracking,
    label: one.labelDocumentId,
    weight: showMass(one.actual, units.mass),
    weightOther: showMass(one.actual, other.mass),
    calculated: showMass(one.calculated, units.mass),
    measured: one.measured ? massIn(one.measured, units.mass).toDecimalPlaces(2).toString() : null,
    billed: billed?.weight ?? null,
    freightClass: billed?.freightClass ?? null,
    size: showSize(one.outer, units.length),
    sizeOther: showSize(one.outer, other.length),
    edgesShown: [one.outer.length, one.outer.width, one.outer.height].map((edge) =>
      lengthIn(edge, units.length).toDecimalPlaces(2).toString(),
    ),
    edges: inches(one.outer),
    sizeByHand: one.sizeByHand,
    origin: one.origin,
    unverified: one.unverified,
    planned: one.planned,
    /** Where lots are kept together, which of a line's several are in here or to come, by the line. */
    lots,
    flaws: one.flaws.map((flaw) => ({ ...flaw, key: flawKey(flaw) })),
    overridden: one.overridden.map(({ key, flaw, why, actor, counted = "" }) => ({ key, flaw, why, actor, counted })),
    /** The inside with what lies in it, to be placed by the browser's worker; null where there is no known inside. */
    inside:
      one.inner && one.kind !== "pallet" && one.contents.length > 0
        ? {
            box: {
              code: one.packaging ?? "",
              length: one.inner.length.toNumber(),
              width: one.inner.width.toNumber(),
              height: one.inner.height.toNumber(),
              maxLoad: one.maxLoad?.toNumber() ?? 1e6,
            },
            loads: loadsOf(shipment, (line) =>
              one.contents.reduce((sum, content, at) => sum + (one.lineIds[at] === line.id ? content.quantity : 0), 0),
            ).map((load) => ({ ...load, ownCarton: false, asIs: false })),
          }
        : null,
    contents: one.contents.map((content, index) => ({
      lineId: one.lineIds[index] as number,
      line: content.line,
      quantity: content.quantity,
      ...inches(content.item.unitSize),
      weight: massIn(content.item.unitWeight, "lb").toNumber(),
    })),
  }
}

/** The cartons on a pallet as they can stand on it, in layers from the deck up; none where it carries none. */
function standingOn(
  one: ShipmentPackage,
  cartons: readonly ShipmentPackage[],
  types: readonly PackagingType[],
): readonly Place[] {
  const type = types.find((candidate) => candidate.code === one.packaging)
  if (!type || cartons.length === 0) return []
  // however high and heavy it was built: what is drawn is what stands there
  const boundless = { ...type, maxLoad: mass(1e5, "kg"), inner: { ...type.inner, height: length(15_000, "mm") } }
  const built = buildPallets(
    boundless,
    cartons.map((pack) => ({ number: pack.number, size: pack.outer, weight: pack.actual })),
  )
  return built.ok ? (built.value[0]?.places ?? []) : []
}

/** What is seen of them from the front, in inches from the deck's left end; the others stand behind. */
function frontOf(places: readonly Place[]): { number: number; x: number; z: number; width: number; height: number }[] {
  const inch = (mm: number) => mm / 25.4
  const hides = (other: Place, one: Place) =>
    other.y < one.y &&
    other.x < one.x + one.length &&
    one.x < other.x + other.length &&
    other.z < one.z + one.height &&
    one.z < other.z + other.height
  return places
    .filter((one) => !places.some((other) => hides(other, one)))
    .map((place) => ({
      number: place.number,
      x: inch(place.x),
      z: inch(place.z),
      width: inch(place.length),
      height: inch(place.height),
    }))
}

/** A pallet's load to be seen into, in the order of loading. */
function loadOn(one: ShipmentPackage, places: readonly Place[], types: readonly PackagingType[]) {
  const type = types.find((candidate) => candidate.code === one.packaging)
  if (!type || places.length === 0) return null
  return {
    box: {
      length: type.inner.length.toNumber(),
      width: type.inner.width.toNumber(),
      height: Math.max(...places.map((place) => place.z + place.height)),
    },
    placed: places.map(({ number, layer: _, ...place }) => ({ ...place, key: String(number) })),
    layers: [...new Set(places.map((place) => place.layer))].map((layer) =>
      places.filter((place) => place.layer === layer).map((place) => place.number),
    ),
  }
}
