/** What a source may be told of an order beside its number and its packages' tracking; each is set for each source. */
export const reportFields = [
  "service",
  "dates",
  "lines",
  "lots",
  "contents",
  "sscc",
  "weight",
  "charge",
  "list",
  "cost",
  "ship-from",
  "papers",
] as const
export type ReportField = (typeof reportFields)[number]

/** What a source is told unless somebody says otherwise: all but what the freight costs us. */
export const usualReportFields: readonly ReportField[] = reportFields.filter((one) => one !== "cost" && one !== "list")

interface MoneyOut {
  readonly amount: string
  readonly currency: string
}

/** All that is known of what happened to an order, before a source's choice is made of it. */
export interface ReportModel {
  readonly topic: string
  readonly orderNumber: string
  readonly [name: string]: unknown
  readonly packages?: readonly ReportPackage[]
  readonly lines?: readonly ReportLine[]
  readonly goods?: readonly ReportGoods[]
  readonly charge?: MoneyOut | null
  readonly list?: MoneyOut | null
  readonly cost?: MoneyOut | null
}

export interface ReportPackage {
  readonly trackingNumber: string
  readonly sscc?: string | null
  readonly weightLb?: string
  readonly contents?: readonly {
    readonly sku: string
    readonly quantity: number
    readonly lots?: readonly { readonly lot: string; readonly quantity: number }[]
  }[]
}

/** What was found of an item that came back. */
export interface ReportGoods {
  readonly sku: string
  readonly announced: number
  readonly sound: number
  readonly damaged: number
  readonly missing: number
  readonly surplus: number
}

export interface ReportLine {
  readonly sku: string
  readonly shipped: number
  readonly cancelled?: number
  readonly lots?: readonly { readonly lot: string; readonly quantity: number }[]
}

/** Which parts of a model each field is. */
const partsOf: Readonly<Record<ReportField, readonly string[]>> = {
  service: ["carrier", "service"],
  dates: ["shippedOn", "arrivesOn", "goneAt"],
  lines: ["lines"],
  lots: [],
  contents: [],
  sscc: [],
  weight: [],
  charge: ["charge", "freightCharged"],
  list: ["list"],
  cost: ["cost"],
  "ship-from": ["shipFrom"],
  papers: ["papers"],
}
const chosenParts = new Set(Object.values(partsOf).flat())

/** What a source's system calls things: our name, and its own. */
export type OutNames = Readonly<Record<string, string>>

/** Names that a source may change, as they stand in a report. */
export const outNames = [
  "topic",
  "orderNumber",
  "goneAt",
  "shippedOn",
  "arrivesOn",
  "carrier",
  "service",
  "trackingNumber",
  "packages",
  "sscc",
  "weightLb",
  "contents",
  "lines",
  "sku",
  "quantity",
  "shipped",
  "cancelled",
  "lots",
  "lot",
  "charge",
  "list",
  "cost",
  "amount",
  "currency",
  "freightCharged",
  "shipFrom",
  "papers",
  "kind",
  "number",
  "part",
] as const

/** A report as a source wants it: what it chose, under the names it has for it. Its number and tracking always go. */
export function outward(
  model: ReportModel,
  fields: readonly ReportField[],
  names: OutNames = {},
): Record<string, unknown> {
  const has = new Set(fields)
  const wanted = new Set(fields.flatMap((field) => partsOf[field]))
  const chosen = Object.entries(model).flatMap(([name, value]): [string, unknown][] => {
    if (value === undefined) return []
    // what was changed of lines is all that such a report says
    if (chosenParts.has(name) && !wanted.has(name) && !(name === "lines" && model.topic === "order.changed")) return []
    if (name === "packages") return [[name, (value as readonly ReportPackage[]).map((one) => packageOut(one, has))]]
    if (name === "lines" && Array.isArray(value))
      return [[name, value.map((one: ReportLine) => without(one, has.has("lots") ? [] : ["lots"]))]]
    return [[name, value]]
  })
  return renamed(Object.fromEntries(chosen), names) as Record<string, unknown>
}

function packageOut(one: ReportPackage, has: ReadonlySet<ReportField>): Record<string, unknown> {
  const away = [
    ...(has.has("sscc") ? [] : ["sscc"]),
    ...(has.has("weight") ? [] : ["weightLb"]),
    ...(has.has("contents") ? [] : ["contents"]),
  ]
  const out = without(one, away)
  const { contents } = one
  return has.has("contents") && contents && !has.has("lots")
    ? { ...out, contents: contents.map((part) => without(part, ["lots"])) }
    : out
}

const without = (value: object, names: readonly string[]): Record<string, unknown> =>
  Object.fromEntries(Object.entries(value).filter(([name, part]) => !names.includes(name) && part !== undefined))

function renamed(value: unknown, names: OutNames): unknown {
  if (Array.isArray(value)) return value.map((one) => renamed(one, names))
  if (value === null || typeof value !== "object") return value
  return Object.fromEntries(
    Object.entries(value).map(([name, part]) => [
      Object.hasOwn(names, name) ? (names[name] as string) : name,
      renamed(part, names),
    ]),
  )
}

/** Columns of a report as a file of rows. */
export const reportColumns = [
  "order_number",
  "topic",
  "gone_at",
  "shipped_on",
  "carrier",
  "service",
  "tracking",
  "sscc",
  "weight_lb",
  "sku",
  "quantity",
  "lot",
  "charge",
  "list",
  "cost",
  "currency",
  "ship_from",
  "papers",
] as const
export type ReportColumn = (typeof reportColumns)[number]
export type ReportRow = Readonly<Record<ReportColumn, string | number | null>>

/** The columns that go with what a source chose. */
export function columnsOf(fields: readonly ReportField[]): ReportColumn[] {
  const has = (field: ReportField) => fields.includes(field)
  const of: Partial<Record<ReportColumn, boolean>> = {
    gone_at: has("dates"),
    shipped_on: has("dates"),
    carrier: has("service"),
    service: has("service"),
    sscc: has("sscc"),
    weight_lb: has("weight"),
    sku: has("contents") || has("lines"),
    quantity: has("contents") || has("lines"),
    lot: has("lots"),
    charge: has("charge"),
    list: has("list"),
    cost: has("cost"),
    currency: has("charge") || has("list") || has("cost"),
    ship_from: has("ship-from"),
    papers: has("papers"),
  }
  return reportColumns.filter((column) => of[column] ?? true)
}

/**
 * A report as rows: one for each part of what each package holds. Money stands in the first row alone, so that a column
 * adds up.
 */
export function rowsOf(model: ReportModel): ReportRow[] {
  const papers = (model.papers as readonly { kind: string; number: string }[] | undefined) ?? []
  const from = model.shipFrom as { company?: string; city?: string } | undefined
  const head = {
    order_number: model.orderNumber,
    topic: model.topic,
    gone_at: text(model.goneAt),
    shipped_on: text(model.shippedOn),
    carrier: text(model.carrier),
    service: text(model.service),
    ship_from: [from?.company, from?.city].filter(Boolean).join(", "),
    papers: papers.map((one) => `${one.kind} ${one.number}`).join("; "),
  }
  const packages: readonly ReportPackage[] = model.packages?.length
    ? model.packages
    : [{ trackingNumber: text(model.trackingNumber) }]
  // of goods that came back: what was found, whatever its state
  const returned = (model.goods ?? []).map((one) => ({
    sku: one.sku,
    quantity: (one.sound + one.damaged) as number | null,
    lot: "",
  }))
  const rows = packages.flatMap((one) => {
    const own = { ...head, tracking: one.trackingNumber, sscc: one.sscc ?? "", weight_lb: one.weightLb ?? "" }
    const parts = (one.contents ?? []).flatMap((part) =>
      part.lots?.length
        ? part.lots.map((lot) => ({ sku: part.sku, quantity: lot.quantity as number | null, lot: lot.lot }))
        : [{ sku: part.sku, quantity: part.quantity as number | null, lot: "" }],
    )
    return (parts.length > 0 ? parts : returned.length > 0 ? returned : [{ sku: "", quantity: null, lot: "" }]).map(
      (part) => ({ ...own, ...part }),
    )
  })
  return rows.map((row, index): ReportRow => {
    const first = index === 0
    return {
      ...row,
      charge: first ? (model.charge?.amount ?? "") : "",
      list: first ? (model.list?.amount ?? "") : "",
      cost: first ? (model.cost?.amount ?? "") : "",
      currency: first ? (model.charge?.currency ?? model.list?.currency ?? model.cost?.currency ?? "") : "",
    }
  })
}

const text = (value: unknown): string => (typeof value === "string" ? value : "")
