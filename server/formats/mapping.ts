import { z } from "zod"
import { fields, type OrderRow } from "./orderRow.ts"
import { encodings } from "./text.ts"

const names = fields as [keyof OrderRow & string, ...(keyof OrderRow & string)[]]
const column = z.string().trim().max(80)

/** How a source writes its order files: which column is which field, and its manner of writing dates and figures. */
export const mapping = z.strictObject({
  /** Field → name of the column in the file's header. A field that is not here is not in the file. */
  columns: z.partialRecord(z.enum(names), column),
  /** Field → what it always is, such as a country; used where the column is missing or empty. */
  fixed: z.partialRecord(z.enum(names), z.string().trim().max(60)).default({}),
  /** Columns of the source's own that become references, printed on the label or not. */
  references: z
    .array(z.strictObject({ column, name: z.string().trim().min(1).max(30), printed: z.boolean() }))
    .max(6)
    .default([]),
  encoding: z.enum(encodings).default("auto"),
  delimiter: z.enum(["auto", ",", ";", "\t", "|"]).default("auto"),
  dateOrder: z.enum(["ymd", "dmy", "mdy"]).default("ymd"),
  decimal: z.enum([".", ","]).default("."),
  /** The source's words for levels of packaging, such as `EA` for `each`. */
  units: z.record(z.string().max(16), z.string().trim().max(16)).default({}),
})
export type Mapping = z.infer<typeof mapping>

/**
 * A row of the source's own columns as a row of ours. What can't be read as the mapping says stays as it was written,
 * so that the refusal shows it.
 */
export function mapped(record: Readonly<Record<string, string>>, by: Mapping): Record<string, string> {
  const row: Record<string, string> = {}
  for (const field of fields) {
    const name = by.columns[field]
    const written = (name === undefined ? "" : (record[name] ?? "")).trim()
    const value = written || (by.fixed[field] ?? "")
    if (value) row[field] = normalised(field, value, by)
  }
  for (const reference of by.references) {
    const value = record[reference.column]?.trim()
    if (value) row[`reference${reference.printed ? "+" : "-"}${reference.name}`] = value
  }
  return row
}

function normalised(field: keyof OrderRow, value: string, by: Mapping): string {
  if (field === "ordered_on" || field === "promised_on" || field === "ship_on") return isoDate(value, by.dateOrder)
  if (field === "quantity") return plainNumber(value, by.decimal).replace(/\.0+$/, "")
  if (field === "unit_price") return plainNumber(value, by.decimal)
  if (field === "unit") {
    const known = Object.entries(by.units).find(([theirs]) => theirs.toLowerCase() === value.toLowerCase())
    return known ? known[1] : value
  }
  return value
}

/**
 * A date as ISO 8601 from a day, month and year in the given order, whatever stands between them; of two digits of a
 * year the century is this one. A time behind it is left out. Anything else comes back as it was.
 *
 * @example isoDate("24.11.26", "dmy") // "2026-11-24"
 */
export function isoDate(text: string, order: Mapping["dateOrder"]): string {
  const iso = /^(\d{4})-?(\d{2})-?(\d{2})(?:[T ].*)?$/.exec(text)
  if (iso) return `${iso[1]}-${iso[2]}-${iso[3]}`
  const parts = /^(\d{1,4})\s*[./\-\s]\s*(\d{1,2})\s*[./\-\s]\s*(\d{1,4})(?:[T ,].*)?$/.exec(text)
  if (!parts) return text
  const at = (letter: string) => parts[order.indexOf(letter) + 1] as string
  const year = at("y").length === 2 ? `20${at("y")}` : at("y")
  if (year.length !== 4 || at("m").length > 2 || at("d").length > 2) return text
  return `${year}-${at("m").padStart(2, "0")}-${at("d").padStart(2, "0")}`
}

/**
 * A figure with a point and without marks between thousands. What is no such figure comes back as it was.
 *
 * @example plainNumber("1.234,50", ",") // "1234.50"
 */
export function plainNumber(text: string, decimal: Mapping["decimal"]): string {
  const [point, group] = decimal === "," ? [",", "."] : [".", ","]
  const compact = text.replace(/[\s\u00a0\u202f']/g, "")
  const shape = new RegExp(`^\\d{1,3}(?:\\${group}\\d{3})*(?:\\${point}\\d+)?$|^\\d+(?:\\${point}\\d+)?$`)
  return shape.test(compact) ? compact.replaceAll(group, "").replace(point, ".") : text
}

/** A guess at a mapping from a file's header: columns named as our fields, or as orders often name them. */
export function guessedMapping(header: readonly string[]): Mapping["columns"] {
  const plain = (name: string) => name.toLowerCase().replace(/[^a-z0-9]/g, "")
  const columns: Record<string, string> = {}
  for (const field of fields) {
    const wanted = [plain(field), ...(often[field] ?? [])]
    const found = header.find((name) => wanted.includes(plain(name)) && !Object.values(columns).includes(name))
    if (found) columns[field] = found
  }
  return columns as Mapping["columns"]
}

/** Names that columns of order files often have (common practice). */
const often: Partial<Record<keyof OrderRow, readonly string[]>> = {
  order_number: ["order", "orderno", "ordernr", "orderid", "salesorder", "auftrag", "auftragsnr", "bestellnummer"],
  po_number: ["po", "pono", "purchaseorder", "customerorder", "kundenbestellung"],
  ordered_on: ["orderdate", "date", "datum", "bestelldatum", "auftragsdatum"],
  promised_on: ["promised", "deliverydate", "duedate", "requireddate", "liefertermin"],
  ship_on: ["shipdate", "requestedship", "versanddatum"],
  service_asked: ["shippingmethod", "shipvia", "service", "versandart"],
  freight_paid: ["shippingpaid", "freight", "shipping", "fracht"],
  customer: ["customername", "soldto", "buyer", "kunde"],
  company: ["shipto", "shiptoname", "deliveryname", "firma"],
  attention: ["contact", "attn", "ansprechpartner"],
  street: ["address", "address1", "shiptostreet", "strasse", "addressline1"],
  street2: ["address2", "addressline2", "zusatz"],
  city: ["town", "shiptocity", "ort", "stadt"],
  state: ["province", "region", "shiptostate", "bundesland"],
  postal_code: ["zip", "zipcode", "postcode", "postalcode", "plz"],
  country: ["countrycode", "shiptocountry", "land"],
  phone: ["telephone", "tel", "telefon"],
  sku: ["item", "itemno", "article", "articleno", "product", "artikel", "artikelnr"],
  gtin: ["ean", "barcode", "upc"],
  quantity: ["qty", "pieces", "menge", "anzahl"],
  unit: ["uom", "einheit", "unitofmeasure"],
  unit_price: ["price", "preis", "einzelpreis"],
  notes: ["note", "comment", "remarks", "bemerkung"],
  reference: ["ref", "yourreference", "referenz"],
  cost_centre: ["costcenter", "kostenstelle"],
  source_state: ["status", "state2", "orderstatus"],
  record_url: ["url", "link"],
}
