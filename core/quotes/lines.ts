import { accepted, type Outcome, reason, refused } from "../refusal/index.ts"

/** A package as it is typed. */
export interface TypedPackage {
  readonly count: number
  readonly weight: string
  readonly weightUnit: "lb" | "kg"
  readonly length: string
  readonly width: string
  readonly height: string
  readonly lengthUnit: "in" | "cm"
  readonly pallet: boolean
  readonly freightClass: string
  readonly stackable: boolean
}

const pattern =
  /^(?:(\d{1,3})\s*[x×*]?\s+)?(?:(pallets?|cartons?|packages?)\s+)?(\d+(?:[.,]\d+)?)\s*(lb|lbs|kg)\s*,?\s+(\d+(?:[.,]\d+)?)\s*[x×*]\s*(\d+(?:[.,]\d+)?)\s*[x×*]\s*(\d+(?:[.,]\d+)?)\s*(in|cm|")?(?:\s*,?\s*class\s+(\d+(?:\.\d)?))?(\s*,?\s*stackable)?$/i

/**
 * Packages as people write them, one kind a line: `3 × 22 lb 20 × 15 × 13 in`, `1 pallet 480 lb 48 x 40 x 50 in class 85`.
 * Without a unit of length it is that of the weight's system. Every line that can't be read is refused.
 */
export function readPackages(text: string): Outcome<TypedPackage[]> {
  return each(text, (line) => {
    const found = pattern.exec(line)
    if (!found) return null
    const [, count, kind, weight, unit, length, width, height, lengthUnit, freightClass, stackable] = found
    const weightUnit = unit?.toLowerCase() === "kg" ? "kg" : "lb"
    const plain = (figure: string | undefined) => (figure ?? "").replace(",", ".")
    return {
      count: Number(count ?? 1),
      weight: plain(weight),
      weightUnit,
      length: plain(length),
      width: plain(width),
      height: plain(height),
      lengthUnit: lengthUnit ? (lengthUnit.toLowerCase() === "cm" ? "cm" : "in") : weightUnit === "kg" ? "cm" : "in",
      pallet: /^pallet/i.test(kind ?? ""),
      freightClass: freightClass ?? "",
      stackable: stackable !== undefined,
    }
  })
}

/** Items as people write them, one a line: `6 HOP-CAS-1` or `HOP-CAS-1 6`. */
export function readItems(text: string): Outcome<{ readonly sku: string; readonly quantity: number }[]> {
  return each(text, (line) => {
    const [, before, sku, after] =
      /^(?:(\d{1,5})\s*[x×*]?\s+)?([A-Z0-9][A-Z0-9._/-]{1,23})(?:\s+(\d{1,5}))?$/i.exec(line) ?? []
    const quantity = Number(before ?? after ?? 1)
    return sku && !(before && after) && quantity > 0 ? { sku: sku.toUpperCase(), quantity } : null
  })
}

function each<T>(text: string, read: (line: string) => T | null): Outcome<T[]> {
  const lines = text.split("\n").flatMap((line, at) => (line.trim() ? [{ line: line.trim(), n: at + 1 }] : []))
  const made = lines.map(({ line }) => read(line))
  const bad = lines.filter((_, at) => made[at] === null)
  if (bad.length > 0)
    return refused(...bad.map(({ line, n }) => reason("quote.line-bad", { n, text: line.slice(0, 60) })))
  return accepted(made as T[])
}
