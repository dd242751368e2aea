import { type Reason, reason } from "../refusal/index.ts"
import { isLithium, type LithiumFacts, lithiumGaps } from "./lithium.ts"

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
  /** Inner packagings in one base unit; not said: one. */
  readonly innerCount?: number
  /** Name of what makes it dangerous, where the shipping name is a general one. */
  readonly technicalName?: string
  /** Classes of further hazards, such as `6.1`. */
  readonly subsidiary?: string
  /** Of cells and batteries; null where nobody has said. */
  readonly lithium?: LithiumFacts | null
}

export * from "./carriage.ts"
export * from "./limits.ts"
export * from "./lithium.ts"
export * from "./shippingPaper.ts"

export const packingGroups = ["I", "II", "III"] as const
export const innerUnits = ["L", "mL", "kg", "g"] as const

type GapField =
  | "unNumber"
  | "properShippingName"
  | "hazardClass"
  | "packingGroup"
  | "innerQuantity"
  | "limitedQuantity"
  | "technicalName"

/** General names are followed by the name of what makes the goods dangerous: 49 CFR 172.203(k) (from memory). */
export const needsTechnicalName = (name: string): boolean => /\bn\.\s?o\.\s?s\b/i.test(name)

/**
 * Which of the facts are missing or have not the shape that 49 CFR 172.101 and 172.202 give them (shapes from memory).
 * Gases, explosives and radioactive goods have no packing group, nor have articles such as batteries.
 */
export function dangerousGaps(facts: DangerousFacts, at: { line: number; sku: string }): Reason[] {
  const gap = (field: keyof Pick<DangerousFacts, GapField>) =>
    reason(`dangerous.${field}`, { ...at, unNumber: facts.unNumber, field })
  const gaps: Reason[] = []
  if (!/^UN\d{4}$/.test(facts.unNumber)) gaps.push(gap("unNumber"))
  if (!facts.properShippingName.trim()) gaps.push(gap("properShippingName"))
  if (!/^(1\.[1-6][A-HJ-LNS]|[2-6]\.[1-6]|[3789])$/.test(facts.hazardClass)) gaps.push(gap("hazardClass"))
  // cells and batteries are articles, dry ice has no group either
  const lithium = isLithium(facts.unNumber)
  const without = /^[127]/.test(facts.hazardClass) || lithium || facts.unNumber === "UN1845"
  if (!without && !(packingGroups as readonly string[]).includes(facts.packingGroup)) gaps.push(gap("packingGroup"))
  if (needsTechnicalName(facts.properShippingName) && !facts.technicalName?.trim()) gaps.push(gap("technicalName"))
  if (lithium) return [...gaps, ...lithiumGaps(facts.unNumber, facts.lithium ?? null, at)]
  if (
    !facts.innerQuantity ||
    Number(facts.innerQuantity) <= 0 ||
    !(innerUnits as readonly string[]).includes(facts.innerUnit)
  )
    gaps.push(gap("innerQuantity"))
  if (facts.limitedQuantity === null) gaps.push(gap("limitedQuantity"))
  return gaps
}
