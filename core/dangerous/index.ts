import { type Reason, reason } from "../refusal/index.ts"

/** What must be known of dangerous goods before any paper or mark can be made for them. */
export interface DangerousFacts {
  /** Such as `UN1805`. */
  readonly unNumber: string
  readonly properShippingName: string
  /** Class or division, with the compatibility group of explosives, such as `8`, `2.1`, `1.4S`. */
  readonly hazardClass: string
  /** I, II, III; empty where the entry has none. */
  readonly packingGroup: string
  /** Net quantity in one inner packaging, as text, and its unit (L, mL, kg, g). */
  readonly innerQuantity: string | null
  readonly innerUnit: string
  /** Null until somebody has said. */
  readonly limitedQuantity: boolean | null
}

export const packingGroups = ["I", "II", "III"] as const
export const innerUnits = ["L", "mL", "kg", "g"] as const

/** Entries for cells and batteries, which have no packing group (49 CFR 172.101, from memory). */
const articles = new Set(["UN3090", "UN3091", "UN3480", "UN3481"])

/**
 * Which of the facts are missing or have not the shape that 49 CFR 172.101 and 172.202 give them (shapes from memory).
 * Gases, explosives and radioactive goods have no packing group, nor have articles such as batteries.
 */
export function dangerousGaps(facts: DangerousFacts, at: { line: number; sku: string }): Reason[] {
  const gap = (field: Exclude<keyof DangerousFacts, "innerUnit">) =>
    reason(`dangerous.${field}`, { ...at, unNumber: facts.unNumber, field })
  const gaps: Reason[] = []
  if (!/^UN\d{4}$/.test(facts.unNumber)) gaps.push(gap("unNumber"))
  if (!facts.properShippingName.trim()) gaps.push(gap("properShippingName"))
  if (!/^(1\.[1-6][A-HJ-LNS]|[2-6]\.[1-6]|[3789])$/.test(facts.hazardClass)) gaps.push(gap("hazardClass"))
  const without = /^[127]/.test(facts.hazardClass) || articles.has(facts.unNumber)
  if (!without && !(packingGroups as readonly string[]).includes(facts.packingGroup)) gaps.push(gap("packingGroup"))
  if (
    !facts.innerQuantity ||
    Number(facts.innerQuantity) <= 0 ||
    !(innerUnits as readonly string[]).includes(facts.innerUnit)
  )
    gaps.push(gap("innerQuantity"))
  if (facts.limitedQuantity === null) gaps.push(gap("limitedQuantity"))
  return gaps
}
