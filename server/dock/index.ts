import { placeOf } from "core/address/index.ts"
import { localDate, localTime } from "core/calendar/index.ts"
import { manifest } from "core/documents/index.ts"
import type { CollectionId, OrderId, PackageId, WarehouseId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { type Mass, mass, massIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { keepDocument, printDocument, whose } from "../documents/index.ts"
import { leadOf, membersOf } from "../orders/joined.ts"
import { manifestPdf } from "../pdf/manifest.ts"
import { reportGone } from "../reports/index.ts"
import { type Collection, collectionById, collectionsOn, openCollections } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"

/** Where a package was scanned last: at the bench, at a door, on the truck at a door. */
export interface PlaceSeen {
  readonly place: "bench" | "door" | "truck"
  readonly door: string
}

/** Reads a place as it is stored: `bench`, `door:4`, `truck:4`. */
function placeSeen(stored: string | null): PlaceSeen | null {
  const [place, door = ""] = (stored ?? "").split(":")
  return place === "bench" || place === "door" || place === "truck" ? { place, door } : null
}

export interface DockPackage {
  readonly id: number
  readonly name: string
  readonly orderId: OrderId
  readonly state: "labelled" | "on-truck" | "left-behind" | "gone"
  readonly receiver: string
  readonly place: string
  readonly service: string
  readonly tracking: string
  readonly sscc: string
  readonly weight: Mass
  readonly seenAt: Date | null
  readonly seenWhere: PlaceSeen | null
  /** An order in its shipment is stopped or canceled: it must not leave. */
  readonly stopped: boolean
  /** It goes as freight, with a bill of lading. */
  readonly freight: boolean
}

/** The packages of a collection in the order of their names. */
export async function packagesOf(
  db: Knex,
  collectionIds: readonly CollectionId[],
): Promise<Map<number, DockPackage[]>> {
  const rows = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .join("service as s", "s.id", "h.service_id")
    .whereIn("p.collection_id", [...collectionIds])
    .whereIn("p.state", ["labelled", "on-truck", "left-behind", "gone"])
    .whereNull("p.parent_id")
    .orderBy(["o.order_number", "p.number"])
    .select(
      "p.*",
      "o.id as order_id",
      "o.order_number",
      "o.company",
      "o.city",
      "o.country",
      "o.state as region",
      "s.name as service_name",
      "s.mode as service_mode",
    )
  const stopped = await stoppedShipments(
    db,
    rows.map((row) => row.order_id),
  )
  const byCollection = new Map<number, DockPackage[]>(collectionIds.map((id) => [id, []]))
  for (const row of rows) {
    byCollection.get(row.collection_id)?.push({
      id: row.id,
      name: `${row.order_number}-${row.number}`,
      orderId: row.order_id,
      state: row.state,
      receiver: row.company,
      place: placeOf({ city: row.city, state: row.region, country: row.country }),
      freight: row.service_mode === "freight" || row.service_mode === "groupage",
      service: row.service_name,
      tracking: row.tracking,
      sscc: row.sscc,
      weight: mass(row.sent_kg, "kg"),
      seenAt: row.seen_at,
      seenWhere: placeSeen(row.seen_where),
      stopped: stopped.has(row.order_id),
    })
  }
  return byCollection
}

/** Why the orders of shipments must not leave, by the leading order; only those that must not. */
async function stoppedShipments(db: Knex, leads: readonly number[]): Promise<Map<number, Reason[]>> {
  const ids = [...new Set(leads)]
  if (ids.length === 0) return new Map()
  const rows = await db("sales_order as o")
    .leftJoin("order_stop as s", "s.order_id", "o.id")
    .where((member) => member.whereIn("o.id", ids).orWhereIn("o.joined_to_id", ids))
    .where((either) => either.whereNotNull("s.id").orWhereNotNull("o.cancelled_at"))
    .orderBy(["o.id", "s.id"])
    .select("o.id", "o.joined_to_id", "o.order_number", "o.cancelled_at", "s.code", "s.detail")
  const why = new Map<number, Reason[]>()
  for (const row of rows) {
    const lead = (row.joined_to_id ?? row.id) as number
    const order = { order: row.order_number as string }
    const reasons: Reason[] =
      row.cancelled_at !== null
        ? [reason("dock.order-cancelled", order)]
        : [reason("dock.order-stopped", order), { code: row.code, values: parsed<Record<string, string>>(row.detail) }]
    why.set(lead, [...(why.get(lead) ?? []), ...reasons])
  }
  return why
}

export interface DockDoor {
  readonly collection: Collection
  readonly packages: readonly DockPackage[]
}

/**
 * Today's collections with their packages, later ones that have packages already, and any other where it is asked for.
 */
export async function dock(context: Context, zone: string, asked: number | null = null): Promise<DockDoor[]> {
  const { db, actor, now } = context
  const today = await collectionsOn(db, actor.warehouseId, localDate(now, zone))
  const other =
    asked === null || today.some((one) => one.id === asked) ? null : await collectionById(db, actor.warehouseId, asked)
  const later = (await openCollections(db, actor.warehouseId, now)).filter((one) => one.onDate > localDate(now, zone))
  const ahead = await packagesOf(
    db,
    later.map((one) => one.id),
  )
  const laden = later.filter((one) => one.id !== other?.id && (ahead.get(one.id)?.length ?? 0) > 0)
  const collections = [...today, ...laden, ...(other ? [other] : [])]
  const packages = await packagesOf(
    db,
    collections.map((one) => one.id),
  )
  return collections.map((collection) => ({ collection, packages: packages.get(collection.id) ?? [] }))
}

/** Puts a package on the truck of a collection by its SSCC or name. Another truck's package is refused by its door. */
export async function load(
  context: Context,
  collectionId: CollectionId,
  code: { sscc: string } | { orderNumber: string; number: number },
  scanId: string,
): Promise<Outcome<{ name: string; again: boolean }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx) => {
    const collection = await collectionById(trx, actor.warehouseId, collectionId)
    if (!collection) return refused(reason("dock.no-such-collection"))
    const query = trx("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .join("sales_order as o", "o.id", "h.order_id")
      .where("h.warehouse_id", actor.warehouseId)
    const row = await ("sscc" in code
      ? query.where("p.sscc", code.sscc)
      : query.where({ "o.order_number": code.orderNumber, "p.number": code.number })
    ).first(
      "p.id",
      "p.parent_id",
      "p.state",
      "p.collection_id",
      "p.number",
      "o.order_number",
      "o.id as order_id",
      "h.state as shipment_state",
    )
    if (!row)
      return refused(
        reason("dock.no-such-package", { code: "sscc" in code ? code.sscc : `${code.orderNumber}-${code.number}` }),
      )
    const name = `${row.order_number}-${row.number}`
    if (collection.closedAt) return refused(reason("dock.closed", { door: collection.door }))
    if (!["labelled", "left-behind", "on-truck", "gone"].includes(row.state))
      return refused(reason("dock.not-labelled", { package: name }))
    if (row.parent_id) {
      const under = there(await trx("package").where({ id: row.parent_id }).first("number"))
      return refused(reason("dock.on-pallet", { package: name, pallet: `${row.order_number}-${under.number}` }))
    }
    if (row.shipment_state === "voiding") return refused(reason("dock.voiding", { package: name }))
    if (row.state === "gone") return refused(reason("dock.already-gone", { package: name }))
    const stopped = (await stoppedShipments(trx, [row.order_id])).get(row.order_id)
    if (stopped) return refused(reason("dock.keep-here", { package: name }), ...stopped)
    if (row.collection_id !== collectionId) {
      const right = await collectionById(trx, actor.warehouseId, row.collection_id)
      const zone = (await warehouseById(trx, actor.warehouseId)).zone
      return refused(
        reason("dock.wrong-door", {
          package: name,
          door: right?.door ?? "",
          carrier: right?.carrier ?? "",
          cutOff: right ? localTime(right.cutOff, zone) : "",
          here: collection.door,
        }),
      )
    }
    if (await trx("scan").where({ id: scanId }).first("id")) return accepted({ name, again: true })
    const changed = await withLoad(trx, row.id)
      .whereIn("state", ["labelled", "left-behind"])
      .update({
        state: "on-truck",
        loaded_at: now,
        loaded_by: actor.name,
        seen_at: now,
        seen_where: `truck:${collection.door}`,
      })
    await trx("scan").insert({
      id: scanId,
      at: now,
      user_id: actor.userId ?? 0,
      place: "dock",
      text: name,
      outcome: changed ? "on the truck" : "again",
    })
    if (changed)
      await record(trx, actor, now, {
        action: "dock.loaded",
        orderId: row.order_id,
        collectionId,
        detail: { package: name, door: collection.door },
      })
    return accepted({ name, again: changed === 0 })
  })
}

/** A package with all that stands on it. */
const withLoad = (trx: Knex, id: number) =>
  trx("package").where((either) => either.where({ id }).orWhere({ parent_id: id }))

/** Takes a package off the truck again, before the collection is closed. Safe to repeat. */
export async function takeOff(context: Context, collectionId: CollectionId, packageId: PackageId): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  await inTransaction(db, async (trx) => {
    const collection = await trx("collection")
      .where({ id: collectionId, warehouse_id: actor.warehouseId })
      .whereNull("closed_at")
      .forUpdate()
      .first("door")
    if (!collection) return
    const changed = await withLoad(trx, packageId)
      .where({ collection_id: collectionId, state: "on-truck" })
      .update({
        state: "labelled",
        loaded_at: null,
        loaded_by: null,
        seen_at: now,
        seen_where: `door:${collection.door}`,
      })
    if (changed === 0) return
    const { orderId, name } = await named(trx, packageId)
    await record(trx, actor, now, {
      action: "dock.taken-off",
      orderId,
      collectionId,
      detail: { package: name, door: collection.door },
    })
  })
}

/** What a package is called, and whose it is. */
async function named(trx: Knex, packageId: PackageId): Promise<{ orderId: OrderId; name: string }> {
  const row = await trx("package")
    .join("shipment", "shipment.id", "package.shipment_id")
    .join("sales_order", "sales_order.id", "shipment.order_id")
    .where("package.id", packageId)
    .first("order_id", "order_number", "package.number")
  return { orderId: row.order_id, name: `${row.order_number}-${row.number}` }
}

/** Marks packages that stay here when the truck leaves, or takes that back. */
export async function leaveBehind(
  context: Context,
  collectionId: CollectionId,
  packageIds: readonly PackageId[],
  left: boolean,
): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  await inTransaction(db, async (trx) => {
    const collection = await trx("collection")
      .where({ id: collectionId, warehouse_id: actor.warehouseId })
      .whereNull("closed_at")
      .forUpdate()
      .first("id", "door")
    if (!collection) return
    for (const id of packageIds) {
      const from = left ? ["labelled"] : ["left-behind"]
      const changed = await withLoad(trx, id)
        .where({ collection_id: collectionId })
        .whereIn("state", from)
        .update({ state: left ? "left-behind" : "labelled" })
      if (changed === 0) continue
      const { orderId, name } = await named(trx, id)
      await record(trx, actor, now, {
        action: left ? "dock.left-behind" : "dock.not-left-behind",
        orderId,
        collectionId,
        detail: { package: name, door: collection.door },
      })
    }
  })
}

/** An order that is planned for a collection and not labeled yet. */
export interface OrderToGo {
  readonly orderNumber: string
  readonly customer: string
  readonly stopped: boolean
}

/** The orders that are planned for collections and not labeled yet, stopped ones too, by collection and number. */
export async function ordersToGo(
  db: Knex,
  warehouseId: WarehouseId,
  collectionIds: readonly CollectionId[],
): Promise<Map<number, OrderToGo[]>> {
  const rows = await db("sales_order as o")
    .where("o.warehouse_id", warehouseId)
    .whereIn("o.collection_id", [...collectionIds])
    .whereNull("o.left_line_at")
    .orderBy("o.order_number")
    .select("o.collection_id", "o.order_number", "o.customer_name")
    .select(db.raw("EXISTS (SELECT 1 FROM order_stop s WHERE s.order_id = o.id) AS stopped"))
  const byCollection = new Map<number, OrderToGo[]>(collectionIds.map((id) => [id, []]))
  for (const row of rows)
    byCollection
      .get(row.collection_id)
      ?.push({ orderNumber: row.order_number, customer: row.customer_name, stopped: row.stopped === 1 })
  return byCollection
}

/** So many orders are named in a refusal. */
const mostNamed = 8

/** Locks the orders of what is on a truck, with their other parts: what each source is told depends on all of them. */
async function lockOrdersOf(trx: Knex, collectionId: CollectionId): Promise<void> {
  const loaded = trx("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", (on) => on.on("o.id", "h.order_id").orOn("o.joined_to_id", "h.order_id"))
    .where("p.collection_id", collectionId)
  const own: { source_id: number; source_number: string }[] = await loaded.distinct("o.source_id", "o.source_number")
  if (own.length === 0) return
  await trx("sales_order")
    .whereIn(
      ["source_id", "source_number"],
      own.map((one) => [one.source_id, one.source_number]),
    )
    .orderBy("id")
    .forUpdate()
    .select("id")
}

/**
 * Closes a collection: everything for it is on the truck or named as left behind, as many are on the truck as the
 * clerk saw, and none of them is stopped. Ahead of its cut-off, with orders to go, it also wants the number of those
 * that the clerk knows will miss it. Its packages are gone, its manifest is made and printed, sources are told by the outbox, and what was
 * left behind goes with the next truck of its service: all in one transaction. Closing again changes nothing.
 */
export async function closeCollection(
  context: Context,
  collectionId: CollectionId,
  expectedPackages: number,
  ordersMissing = 0,
): Promise<Outcome<{ manifestNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx) => {
    await lockOrdersOf(trx, collectionId)
    await trx("collection").where({ id: collectionId, warehouse_id: actor.warehouseId }).forUpdate().select("id")
    const collection = await collectionById(trx, actor.warehouseId, collectionId)
    if (!collection) return refused(reason("dock.no-such-collection"))
    if (collection.closedAt) return accepted({ manifestNumber: collection.manifestNumber ?? "" })
    await trx("package").where({ collection_id: collectionId }).forUpdate().select("id")
    const packages = (await packagesOf(trx, [collectionId])).get(collectionId) ?? []
    const missing = packages.filter((one) => one.state === "labelled")
    if (missing.length > 0) return refused(...missing.map((one) => reason("dock.missing", { package: one.name })))
    const loaded = packages.filter((one) => one.state === "on-truck")
    if (loaded.length !== expectedPackages)
      return refused(reason("dock.count-changed", { seen: expectedPackages, now: loaded.length }))
    const stopped = await stoppedShipments(
      trx,
      loaded.map((one) => one.orderId),
    )
    const off = loaded.filter((one) => one.stopped)
    if (off.length > 0)
      return refused(
        ...off.map((one) => reason("dock.take-it-off", { package: one.name })),
        ...[...stopped.values()].flat(),
      )
    const warehouse = await warehouseById(trx, actor.warehouseId)
    const toGo =
      now < collection.cutOff ? ((await ordersToGo(trx, warehouse.id, [collectionId])).get(collectionId) ?? []) : []
    if (toGo.length > 0 && toGo.length !== ordersMissing) {
      const names = toGo.slice(0, mostNamed).map((one) => one.orderNumber)
      return refused(
        reason("dock.early", {
          n: toGo.length,
          orders: names.join(", ") + (toGo.length > mostNamed ? " …" : ""),
          time: localTime(collection.cutOff, warehouse.zone),
        }),
      )
    }
    const { account } = there(await trx("carrier").where({ id: collection.carrierId }).first("account"))
    const stamp = `${collection.onDate.slice(2).replaceAll("-", "")}-${collection.door}-${localTime(collection.cutOff, warehouse.zone).replace(":", "")}`
    const model = manifest(
      {
        number: `${warehouse.code}-${stamp}`,
        carrier: collection.carrier,
        account,
        door: collection.door,
        sender: warehouse.sender,
        closedAt: `${localDate(now, warehouse.zone)} ${localTime(now, warehouse.zone)}`,
        closedBy: actor.name,
      },
      loaded.map((one) => ({
        package: one.name,
        trackingNumber: one.tracking,
        service: one.service,
        receiver: one.receiver,
        place: one.place,
        weight: one.weight,
      })),
    )
    const documentId = await keepDocument(trx, {
      warehouseId: warehouse.id,
      kind: "manifest",
      name: model.number,
      bytes: await manifestPdf(model, now),
      madeAt: now,
      collectionId,
    })
    await printDocument(trx, warehouse.id, documentId, "manifest", 1, whose(context))
    await trx("collection").where({ id: collectionId }).update({
      closed_at: now,
      closed_by: actor.name,
      manifest_number: model.number,
      manifest_document_id: documentId,
    })
    await trx("package").where({ collection_id: collectionId, state: "on-truck" }).update({ state: "gone" })
    await moveLeftBehind(
      trx,
      context,
      collection,
      packages.filter((one) => one.state === "left-behind"),
    )
    const leaving = new Set<number>()
    for (const lead of new Set(loaded.map((one) => one.orderId)))
      for (const orderId of await membersOf(trx, lead)) leaving.add(orderId)
    for (const orderId of leaving) {
      await record(trx, actor, now, {
        action: "dock.gone",
        orderId,
        collectionId,
        detail: { door: collection.door, carrier: collection.carrier, manifest: model.number },
      })
      const open = await trx("package")
        .join("shipment", "shipment.id", "package.shipment_id")
        .where({ order_id: await leadOf(trx, orderId) })
        .whereNotIn("package.state", ["gone", "void"])
        .first("package.id")
      if (!open) await reportGone(trx, orderId, now)
    }
    await record(trx, actor, now, {
      action: "dock.collection-closed",
      collectionId,
      detail: {
        manifest: model.number,
        packages: loaded.length,
        lb: massIn(model.weight, "lb").toFixed(1),
        missed: toGo.map((one) => one.orderNumber).join(", "),
      },
    })
    return accepted({ manifestNumber: model.number })
  })
}

async function moveLeftBehind(
  trx: Knex,
  { actor, now }: Context,
  closed: Collection,
  packages: readonly DockPackage[],
): Promise<void> {
  for (const one of packages) {
    const service = await trx("shipment")
      .join("package", "package.shipment_id", "shipment.id")
      .join("service", "service.id", "shipment.service_id")
      .where("package.id", one.id)
      .first("service.code")
    const next = await trx("collection")
      .where({ warehouse_id: actor.warehouseId, carrier_id: closed.carrierId })
      .whereNull("closed_at")
      .where("cut_off", ">", closed.cutOff)
      .whereRaw("JSON_CONTAINS(services, JSON_QUOTE(?))", [service.code])
      .orderBy("cut_off")
      .first("id", "on_date", "door")
    if (!next) continue
    await withLoad(trx, one.id).where({ state: "left-behind" }).update({ collection_id: next.id, state: "labelled" })
    await record(trx, actor, now, {
      action: "dock.stayed",
      orderId: one.orderId,
      collectionId: closed.id,
      detail: { package: one.name, next: next.on_date, door: next.door },
    })
  }
}
