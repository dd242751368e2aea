import { readFileSync } from "node:fs"
import { join } from "node:path"
import { gs1CheckDigit } from "core/barcodes/index.ts"
import type { LocalDate, LocalTime } from "core/calendar/index.ts"
import { chargingSchema } from "core/charging/index.ts"
import type { ItemId, LotId } from "core/ids/index.ts"
import { type LengthUnit, length, mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { hashPassword } from "server/accounts/passwords.ts"
import { putAddresses } from "server/addresses/book.ts"
import { parsed } from "server/audit/index.ts"
import type { Mapping } from "server/formats/mapping.ts"
import { keepDraft, release } from "server/rating/versions.ts"
import { newId } from "../server/db/there.ts"
import { loadBorder } from "./border.ts"
import { customers, type DemoCustomer, stoppedCustomers } from "./customers.ts"
import { loadFloors } from "./floor.ts"
import { items, packaging } from "./goods.ts"
import { loadTrackingCodes } from "./tracking.ts"

/** Where the stand-ins are, as the start command found free ports for them. */
export interface Addresses {
  readonly carriers: string
  readonly printer: string
  readonly orderSource: string
  readonly addressService: string
  readonly outsideWarehouse: string
  readonly scale: string
  /** SMTP; its `mailbox` is the port on which it is read. */
  readonly mail: string
  readonly text: string
}

export const duluth = 1
export const reno = 2

/** Demo accounts; the sign-in page offers them in demo mode. */
export const accounts = [
  { username: "maren", name: "Maren Holt", role: "clerk", password: "cellar-door" },
  { username: "tomas", name: "Tomas Reyes", role: "lead", password: "cellar-door" },
  { username: "ilse", name: "Ilse Brandt", role: "sales", password: "cellar-door" },
  { username: "ada", name: "Ada Quill", role: "administrator", password: "cellar-door" },
] as const

/** GS1's demonstration prefix; item and place numbers of our own behind it. */
const prefix = "9521234"
const gtin = (indicator: number, item: number) => {
  const digits = `${indicator}${prefix}${String(item).padStart(5, "0")}`
  return `${digits}${gs1CheckDigit(digits)}`
}
const gln = (place: number) => {
  const digits = `${prefix}${String(place).padStart(5, "0")}`
  return `${digits}${gs1CheckDigit(digits)}`
}

const lb = (figure: string) => mass(figure, "lb").toFixed(12)
const edges = <Prefix extends "" | "inner_" | "outer_" = "">(
  size: readonly [string, string, string],
  prefixed = "" as Prefix,
  unit: LengthUnit = "in",
) =>
  ({
    [`${prefixed}length_mm`]: length(size[0], unit).toFixed(6),
    [`${prefixed}width_mm`]: length(size[1], unit).toFixed(6),
    [`${prefixed}height_mm`]: length(size[2], unit).toFixed(6),
  }) as Record<`${Prefix}${"length" | "width" | "height"}_mm`, string>

/** Master data of the demo: places, people, goods, packaging, carriers. Only into an empty schema. */
export async function loadSetup(db: Knex, at: Addresses, tariffs: string): Promise<void> {
  await places(db)
  await people(db)
  await goods(db)
  await loadFloors(db)
  await loadCarriers(db, at, tariffs)
  await loadTrackingCodes(db)
  await printers(db, at)
  const carrierOf = new Map((await db.select("id", "code").from("carrier")).map((row) => [row.code, row.id]))
  await db("packaging").insert(
    packaging.map((type) => ({
      code: type.code,
      kind: type.kind ?? "carton",
      carrier_id: type.carrier ? carrierOf.get(type.carrier) : null,
      name: type.name,
      ...edges(type.inner, "inner_"),
      ...edges(type.outer, "outer_"),
      tare_kg: lb(type.tare),
      max_load_kg: lb(type.maxLoad),
      price: type.price ?? "0",
    })),
  )
  for (const warehouse_id of [duluth, reno])
    await db("packaging_stock").insert(
      (await db("packaging").where({ kind: "carton" }).orderBy("code").select("id", "code")).map((type) => ({
        warehouse_id,
        packaging_id: type.id,
        on_hand: type.code === "K07" ? 34 : 600,
        low_at: 40,
      })),
    )
  await db("order_source").insert([
    { code: "file", name: "Order file from the shop", report_url: `${at.orderSource}/reports` },
    {
      code: "shop",
      name: "Web shop",
      kind: "pull",
      report_url: `${at.orderSource}/reports`,
      record_url: `${at.orderSource}/orders/{number}`,
      pull_url: `${at.orderSource}/orders`,
      pull_warehouse_id: duluth,
      pull_every_s: 30,
      ship_states: JSON.stringify(["paid"]),
      cancelled_states: JSON.stringify(["cancelled", "refunded"]),
    },
    {
      code: "dealers",
      name: "Dealers' orders",
      kind: "folder",
      folder: "dealers",
      pull_warehouse_id: duluth,
      pull_every_s: 15,
      mapping: JSON.stringify(dealerMapping),
      sample: JSON.stringify(dealerSample),
    },
  ])
  await db("customer").insert(
    [...customers, ...stoppedCustomers].map((customer) => ({
      code: customer.code,
      name: customer.name,
      credit_stop: customer.code === creditStop.code,
      credit_note: customer.code === creditStop.code ? creditStop.note : "",
    })),
  )
  await db("charging_rule").insert(
    chargingRules.map(([name, body], at) => ({
      position: at + 1,
      name,
      body: JSON.stringify(chargingSchema.parse(body)),
    })),
  )
  await db("screening_entry").insert(listedParties)
  await db("outside_service").insert([
    { kind: "address", name: "Address service", url: at.addressService },
    { kind: "mail", name: "Mail server", url: at.mail },
    { kind: "text", name: "Text messages", url: at.text },
  ])
  await db("closing_address").insert([
    { warehouse_id: duluth, email: "yard@northlake.example", purpose: "collections" },
    { warehouse_id: duluth, email: "freight.desk@northlake.example", purpose: "forms" },
  ])
  await db("remote_area").insert(remoteAreas)
  await db("outside_warehouse").insert({ code: "HOLLOW", name: "Hollow Road Depot", base_url: at.outsideWarehouse })
  for (const warehouse_id of [duluth, reno])
    await db("scale").insert({ warehouse_id, name: "Bench 1", ...hostOf(at.scale) })
  await loadBorder(db)
  await putAddresses(db, [...customers, ...stoppedCustomers].map(bookOf))
}

/** How the dealers' own system writes its orders: `demo/files/orders-dealers.csv` is one of its files. */
const dealerMapping: Mapping = {
  columns: {
    order_number: "Auftrag",
    po_number: "Bestellung",
    ordered_on: "Datum",
    promised_on: "Termin",
    customer: "Kunde",
    attention: "Ansprechpartner",
    street: "Strasse",
    city: "Ort",
    state: "Staat",
    postal_code: "PLZ",
    address_kind: "Art",
    sku: "Artikel",
    quantity: "Menge",
    unit: "ME",
    unit_price: "Preis",
    source_state: "Status",
  },
  fixed: { country: "US", phone: "218-555-0142" },
  references: [
    { column: "Kommission", name: "Commission", printed: true },
    { column: "Kst", name: "Cost centre", printed: false },
  ],
  encoding: "auto",
  delimiter: ";",
  dateOrder: "dmy",
  decimal: ",",
  units: { ST: "each", KT: "case" },
}

const dealerSample = (() => {
  const [head = "", ...rows] = readFileSync("demo/files/orders-dealers.csv", "utf16le")
    .replace(/^\ufeff/, "")
    .trim()
    .split("\r\n")
  const header = head.split(";")
  return {
    name: "orders-dealers.csv",
    header,
    rows: rows.map((row) => Object.fromEntries(row.split(";").map((value, at) => [header[at], value]))),
  }
})()

/** What customers are charged for freight in the demo. */
const chargingRules = [
  [
    "Free over 2,500",
    { modes: ["parcel", "post"], countries: ["US"], from: "contract", percent: "12", freeFrom: "2500" },
  ],
  ["Pallets at list less 40", { modes: ["freight"], from: "list", percent: "-40", amount: "15" }],
  ["Abroad, with handling", { from: "contract", percent: "15", perPackage: "4.50" }],
] as const

const creditStop = { code: "PLOVST", note: "two bills over 60 days; ask accounts" }

/** Where carriers go late (common practice; the ranges are those of the states' ZIP codes). */
const remoteAreas = (
  [
    ["Alaska", "US", "995", "999"],
    ["Hawaii", "US", "967", "968"],
    ["Guam and the Pacific", "US", "969", "969"],
    ["Northern Canada", "CA", "X0A", "Y1A"],
  ] as const
).map(([name, country, from_code, to_code]) => ({ name, country, from_code, to_code }))

const bookOf = (customer: DemoCustomer) => ({
  code: customer.code,
  customer: customer.name,
  company: customer.name,
  attention: customer.attention,
  street: customer.street,
  street2: customer.street2 ?? "",
  city: customer.city,
  state: customer.state,
  postal_code: customer.postal,
  country: customer.country ?? "US",
  phone: customer.phone ?? "",
  address_kind: customer.kind,
  building: "",
  instructions: "",
  opening_hours: "",
  dock: "unknown" as const,
  forklift: "unknown" as const,
})

/** Invented parties: an order abroad to one of them waits for the lead. */
const listedParties = (
  [
    ["NW-104", "Grauwasser Chemie Handel", "Kesselgasse 14", "Bamberg", "DE"],
    ["NW-118", "Southern Alembic Trading", "9 Wharf Street", "Nelson", "NZ"],
    ["NW-131", "Pierre Malvoisin Import", "40 rue du Port", "Québec", "CA"],
  ] as const
).map(([reference, name, street, city, country]) => ({ list: "trade watch", reference, name, street, city, country }))

/** Ports may be others after a restart: tells the application where the stand-ins are now. */
export async function moveAddresses(db: Knex, at: Addresses): Promise<void> {
  for (const code of carrierCodes)
    await db("carrier")
      .where({ code })
      .update({ base_url: `${at.carriers}/${code}` })
  await db("order_source")
    .whereIn("code", ["file", "shop"])
    .update({ report_url: `${at.orderSource}/reports` })
  await db("order_source")
    .where({ code: "shop" })
    .update({ pull_url: `${at.orderSource}/orders`, record_url: `${at.orderSource}/orders/{number}` })
  // where customers' systems take messages
  for (const { id, routing } of await db("customer").where("routing", "like", "%/messages%").select("id", "routing")) {
    const own = parsed<{ messages: { way: string; to: string }[] }>(routing)
    const messages = own.messages.map((one) =>
      one.way === "http" ? { ...one, to: `${at.orderSource}/messages` } : one,
    )
    await db("customer")
      .where({ id })
      .update({ routing: JSON.stringify({ ...own, messages }) })
  }
  await db("outside_service").where({ kind: "address" }).update({ url: at.addressService })
  await db("outside_service")
    .insert({ kind: "mail", name: "Mail server", url: at.mail })
    .onConflict("kind")
    .merge(["url"])
  await db("outside_service")
    .insert({ kind: "text", name: "Text messages", url: at.text })
    .onConflict("kind")
    .merge(["url"])
  await db("outside_warehouse").where({ code: "HOLLOW" }).update({ base_url: at.outsideWarehouse })
  await db("scale").update(hostOf(at.scale))
  for (const queue of queues)
    await db("printer")
      .where({ warehouse_id: queue.warehouse, media: queue.media })
      .update({ uri: `${at.printer.replace("http:", "ipp:")}/ipp/${queue.path}`, tray_url: `${at.printer}/` })
}

/** Host and port of a stand-in's address. */
const hostOf = (address: string) => ({ host: new URL(address).hostname, port: Number(new URL(address).port) })

/** Carriers of the demo, with what is not in their tariffs. */
const carrierFacts = JSON.parse(readFileSync("demo/tariffs/carriers.json", "utf8")) as readonly {
  code: string
  account: string
  accountForm: string
  numbers: string
  voidMinutes: number
  balance?: string
}[]
const carrierCodes = carrierFacts.map((one) => one.code)

/** The printers of both warehouses, as the stand-in's queues. */
const queues = [
  { warehouse: duluth, path: "labels", name: "Label printer, bench 1", media: "na_index-4x6_4x6in" },
  { warehouse: duluth, path: "paper", name: "Paper printer, office", media: "na_letter_8.5x11in" },
  { warehouse: reno, path: "reno-labels", name: "Label printer, Reno", media: "na_index-4x6_4x6in" },
  { warehouse: reno, path: "reno-paper", name: "Paper printer, Reno", media: "na_letter_8.5x11in" },
]

/** Carriers whose trucks come only when they are booked. */
const onCall = ["IRON", "HALC"]

/** Trucks: carrier, door, cut-off, services, and weekdays where they do not come on every working day. */
const trucks: Record<number, [string, string, LocalTime, string[], number[]?][]> = {
  [duluth]: [
    ["LARK", "2", "09:30", ["LKG", "LKX"]],
    ["HALC", "10", "11:20", ["HLG"], [5]],
    ["VANS", "9", "12:40", ["VAN"], [1, 3, 5]],
    ["IRON", "5", "13:30", ["IBS", "IBQ"]],
    ["LARK", "4", "14:15", ["LKG", "LKH", "LKC"]],
    ["HEAR", "11", "14:50", ["HWS", "HWP"]],
    ["CIVI", "7", "15:20", ["CVP", "CVL", "CVB", "CVM", "CVI", "CVS"]],
    ["LARK", "1", "16:00", ["LKX", "LKN"]],
    ["BORE", "3", "16:40", ["BRD", "BRE"]],
    ["MERI", "6", "17:10", ["MDS", "MDN", "MDW", "MDC"]],
    ["SWIF", "8", "17:25", ["SWM", "SWI", "SWE"]],
  ],
  [reno]: [
    ["PINE", "5", "13:15", ["PCR"]],
    ["SLED", "4", "12:45", ["SLG", "SLV"]],
    ["HEAR", "7", "13:50", ["HWS", "HWP"]],
    ["CIVI", "3", "14:30", ["CVP", "CVL", "CVB", "CVM", "CVI", "CVS"]],
    ["LARK", "1", "15:45", ["LKG", "LKH", "LKX", "LKN"]],
    ["SIER", "6", "16:20", ["SDD", "SDM"]],
    ["MERI", "2", "17:00", ["MDS", "MDN", "MDW", "MDC"]],
    ["VANS", "9", "17:20", ["VAN"], [2, 4]],
  ],
}

async function places(db: Knex): Promise<void> {
  const work = {
    work_per_order: 3,
    work_per_bin: 1.2,
    work_per_line: 0.6,
    work_per_package: 2.5,
    hand_hour: "27.00",
    work_source: "invented for the demo, not measured",
  }
  await db("warehouse").insert([
    {
      id: duluth,
      code: "DLH",
      name: "Duluth",
      zone: "America/Chicago",
      company: "Northlake Ferment Supply",
      street: "1 Fermenter Quay",
      city: "Duluth",
      state: "MN",
      postal_code: "55802",
      country: "US",
      phone: "218-555-0100",
      email: "shipping@northlake.example",
      hands: 3,
      gln: gln(1),
      gs1_prefix: prefix,
      sscc_extension: 0,
      sscc_serial: 48000,
      order_serial: 48200,
      ...work,
    },
    {
      id: reno,
      code: "RNO",
      name: "Reno",
      zone: "America/Los_Angeles",
      company: "Northlake Ferment Supply",
      street: "8 Stillhouse Loop",
      city: "Reno",
      state: "NV",
      postal_code: "89502",
      country: "US",
      phone: "775-555-0100",
      email: "reno@northlake.example",
      hands: 1,
      gln: gln(2),
      gs1_prefix: prefix,
      sscc_extension: 1,
      sscc_serial: 9000,
      order_serial: 61000,
      ...work,
    },
  ])
  for (const warehouse of [duluth, reno]) {
    await db("work_period").insert([
      { warehouse_id: warehouse, kind: "shift", starts: "07:00", ends: "17:30" },
      { warehouse_id: warehouse, kind: "break", starts: "12:00", ends: "12:30" },
    ])
  }
}

async function people(db: Knex): Promise<void> {
  for (const account of accounts) {
    const id = newId(
      await db("user").insert({
        username: account.username,
        name: account.name,
        role: account.role,
        password_hash: await hashPassword(account.password),
        warehouse_id: duluth,
      }),
    )
    await db("user_warehouse").insert([
      { user_id: id, warehouse_id: duluth },
      { user_id: id, warehouse_id: reno },
    ])
  }
}

async function goods(db: Knex): Promise<void> {
  for (const [index, item] of items.entries()) {
    const id = newId(
      await db("item").insert({
        sku: item.sku,
        description: item.description,
        weight_kg: lb(item.weight),
        ...edges(item.size),
        this_side_up: item.upright ?? false,
        un_number: item.unNumber ?? null,
        proper_shipping_name: item.dangerous?.name ?? "",
        hazard_class: item.dangerous?.class ?? "",
        packing_group: item.dangerous?.group ?? "",
        inner_quantity: item.dangerous?.quantity || null,
        inner_unit: item.dangerous?.unit ?? "",
        limited_quantity: item.dangerous?.limited ?? null,
        technical_name: item.border?.technicalName ?? "",
        subsidiary_hazard: item.border?.subsidiary ?? "",
        lithium: item.border?.lithium ? JSON.stringify(item.border.lithium) : null,
        category: item.border?.category ?? "",
        class_item: item.border?.classItem ?? "",
        freight_only: item.freight ?? false,
        goods_kind: item.kind ?? "general",
        own_carton: item.ownCarton ?? false,
        stackable: item.loadLimit !== "0",
        load_limit_kg: item.loadLimit && item.loadLimit !== "0" ? lb(item.loadLimit) : null,
        freight_class: item.freightClass ?? null,
        customs_description: item.customs ?? "",
        hs_code: item.hs,
        origin: item.origin,
        value: item.value,
        currency: "USD",
      }),
    )
    const itemId = id
    await db("item_level").insert({
      item_id: itemId,
      name: "each",
      gtin: gtin(0, index + 101),
      quantity: 1,
      weight_kg: lb(item.weight),
      ...edges(item.size),
    })
    if (item.case)
      await db("item_level").insert({
        item_id: itemId,
        name: "case",
        gtin: gtin(1, index + 101),
        quantity: item.case.count,
        weight_kg: lb(item.case.weight),
        ...edges(item.case.size),
      })
    await stock(db, duluth, itemId, item.bin, item.stock, item.lots ?? [])
    if (index % 3 !== 2) await stock(db, reno, itemId, `R-${item.bin}`, Math.ceil(item.stock / 2), [])
  }
}

async function stock(
  db: Knex,
  warehouse: number,
  itemId: ItemId,
  bin: string,
  quantity: number,
  lots: readonly [string, LocalDate, LocalDate | null][],
): Promise<void> {
  const shares =
    lots.length > 0
      ? lots.map((lot, index) => ({
          lot,
          quantity:
            index === 0
              ? quantity - Math.floor(quantity / lots.length) * (lots.length - 1)
              : Math.floor(quantity / lots.length),
        }))
      : [{ lot: null, quantity }]
  for (const [index, share] of shares.entries()) {
    // a second lot lies in the next bin, so that what is scanned can be told apart
    const code = index === 0 ? bin : bin.replace(/(\d+)$/, (level) => String(Number(level) + index))
    const [aisle = "A", position = "0", level = "0"] = code.replace(/^R-/, "").split("-")
    const known = await db("bin").where({ warehouse_id: warehouse, code }).first("id")
    const walk = (aisle.charCodeAt(0) - 64) * 10_000 + Number(position) * 10 + Number(level)
    const binId = known?.id ?? newId(await db("bin").insert({ warehouse_id: warehouse, code, walk_order: walk }))
    let lotId: LotId | null = null
    if (share.lot) {
      const there = await db("lot").where({ item_id: itemId, code: share.lot[0] }).first("id")
      lotId =
        there?.id ??
        newId(
          await db("lot").insert({
            item_id: itemId,
            code: share.lot[0],
            received_on: share.lot[1],
            expires_on: share.lot[2],
          }),
        )
    }
    const stockId = newId(
      await db("stock").insert({
        warehouse_id: warehouse,
        bin_id: binId,
        item_id: itemId,
        lot_id: lotId,
        on_hand: share.quantity,
      }),
    )
    await db("stock_movement").insert({
      stock_id: stockId,
      quantity: share.quantity,
      cause: "opening",
      at: new Date("2026-11-23T18:00:00Z"),
    })
  }
}

/**
 * The carriers with their tariffs and trucks, those that are not there yet: a demo that an earlier release made gets
 * them too.
 */
export async function loadCarriers(db: Knex, at: Addresses, tariffs: string): Promise<void> {
  const by = { name: "demo", at: new Date("2026-01-02T12:00:00Z") }
  for (const { code, account, accountForm, numbers, voidMinutes, balance } of carrierFacts) {
    const tariff = JSON.parse(readFileSync(join(tariffs, `${code}.json`), "utf8"))
    const known = await db("carrier").where({ code }).first("id")
    if (known && (await db("tariff_version").where({ carrier_id: known.id }).first("id"))) continue
    const facts = {
      code,
      name: tariff.name,
      base_url: `${at.carriers}/${code}`,
      account,
      account_form: accountForm,
      numbers: numbers as "plain" | "s10",
      void_minutes: voidMinutes,
      holidays: JSON.stringify(tariff.holidays),
      prepaid_balance: balance ?? null,
    }
    const id = known?.id ?? newId(await db("carrier").insert(facts))
    const draft = await keepDraft(db, id, tariff, by)
    if (draft.ok) await release(db, draft.value.versionId, by)
    for (const warehouse of [duluth, reno])
      for (const [, door, cut_off, services, weekdays = [1, 2, 3, 4, 5]] of (trucks[warehouse] ?? []).filter(
        ([carrier]) => carrier === code,
      ))
        await db("collection_rule")
          .insert({
            warehouse_id: warehouse,
            carrier_id: id,
            door,
            cut_off,
            weekdays: JSON.stringify(weekdays),
            services: JSON.stringify(services),
            on_call: onCall.includes(code),
          })
          .onConflict(["warehouse_id", "door", "cut_off"])
          .merge(["services", "on_call"])
  }
}

async function printers(db: Knex, at: Addresses): Promise<void> {
  await db("printer").insert(
    queues.map((queue) => ({
      warehouse_id: queue.warehouse,
      name: queue.name,
      uri: `${at.printer.replace("http:", "ipp:")}/ipp/${queue.path}`,
      tray_url: `${at.printer}/`,
      media: queue.media,
      form: queue.media === "na_letter_8.5x11in" ? "letter" : "4x6",
      dpi: queue.media === "na_letter_8.5x11in" ? 300 : 203,
    })),
  )
  const rows = await db("printer").orderBy("id").select("id", "warehouse_id", "media")
  await db("printer_use").insert(
    rows.map((row) => ({
      warehouse_id: row.warehouse_id,
      printer_id: row.id,
      kind: row.media === "na_letter_8.5x11in" ? "papers" : "labels",
    })),
  )
  await db("bench").insert(
    [...new Set(rows.map((row) => row.warehouse_id))].flatMap((warehouse_id) =>
      ["Bench 1", "Bench 2"].map((name) => ({ warehouse_id, name })),
    ),
  )
}
