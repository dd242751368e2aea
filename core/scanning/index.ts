import { gtin14, hasGs1CheckDigit } from "../barcodes/index.ts"

/** What a scanned or typed text can mean, before anybody knows whether such a thing exists. */
export type Reading =
  | { readonly kind: "sscc"; readonly sscc: string }
  | { readonly kind: "gtin"; readonly gtin: string; readonly lot: string | null }
  | { readonly kind: "order"; readonly orderNumber: string }
  | { readonly kind: "package"; readonly orderNumber: string; readonly number: number }
  | { readonly kind: "door"; readonly door: string }
  | { readonly kind: "run"; readonly run: number }
  | { readonly kind: "line"; readonly line: string; readonly quantity: number | null }
  | { readonly kind: "number"; readonly figure: string }
  | { readonly kind: "weight"; readonly figure: string; readonly unit: "lb" | "kg" | "oz" }
  | { readonly kind: "code"; readonly code: string }

/**
 * The readings of a text, the most telling first. A place takes the first one that it has something for.
 *
 * Element strings (AI 00, 01, 02, 10, and dates between them) are read with or without the symbology identifier `]C1` and with brackets;
 * source of the identifiers: GS1 General Specifications.
 *
 * @example readings("48217") // order 48217, the number 48217, the code "48217"
 */
export function readings(input: string): Reading[] {
  const text = input.trim().replace(/^\](C1|d2|Q3|e0)/, "")
  if (text === "") return []
  const found: Reading[] = []
  // brackets stand for the separator, which ends an element of no fixed length
  const compact = text
    .replace(/\((\d{2,4})\)/g, "\x1d$1")
    .replace(/^\x1d/, "")
    .replace(/[\s()]/g, "")
  const elements = /^00(\d{18})$/.exec(compact) ?? /^(\d{18})$/.exec(compact)
  if (elements?.[1] && hasGs1CheckDigit(elements[1])) found.push({ kind: "sscc", sscc: elements[1] })
  // dates (11 to 17, six digits each) often stand between the item and its lot
  const item = /^(?:01|02)(\d{14})(?:\x1d?1[1-7]\d{6})*(?:\x1d?10([^\x1d]{1,20}))?/.exec(compact)
  if (item?.[1] && hasGs1CheckDigit(item[1])) found.push({ kind: "gtin", gtin: item[1], lot: item[2] ?? null })
  const gtin = gtin14(compact)
  if (gtin) found.push({ kind: "gtin", gtin, lot: null })
  const pack = /^(\d{5,7})-(\d{1,3})$/.exec(text)
  if (pack?.[1] && pack[2]) found.push({ kind: "package", orderNumber: pack[1], number: Number(pack[2]) })
  if (/^\d{5,7}$/.test(text)) found.push({ kind: "order", orderNumber: text })
  const door = /^door\s*(D?[0-9]{1,2})$/i.exec(text)
  if (door?.[1]) found.push({ kind: "door", door: door[1].toUpperCase() })
  const run = /^r(\d{1,7})$/i.exec(text)
  if (run?.[1]) found.push({ kind: "run", run: Number(run[1]) })
  const weight = /^(\d+(?:[.,]\d+)?)\s*(lb|kg|oz)s?$/i.exec(text)
  if (weight?.[1] && weight[2]) {
    found.push({
      kind: "weight",
      figure: weight[1].replace(",", "."),
      unit: weight[2].toLowerCase() as "lb" | "kg" | "oz",
    })
  }
  const line = /^([a-z]{1,2})(?:\s+(\d{1,6}))?$/i.exec(text)
  if (line?.[1]) found.push({ kind: "line", line: line[1].toLowerCase(), quantity: line[2] ? Number(line[2]) : null })
  if (/^\d{1,6}([.,]\d{1,3})?$/.test(text)) found.push({ kind: "number", figure: text.replace(",", ".") })
  found.push({ kind: "code", code: text })
  return found
}

/** Line letters: a … z, then aa, ab … */
export function lineLetter(index: number): string {
  const letter = String.fromCharCode(97 + (index % 26))
  return index < 26 ? letter : lineLetter(Math.floor(index / 26) - 1) + letter
}
