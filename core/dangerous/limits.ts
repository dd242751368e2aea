import { Decimal } from "decimal.js"
import { type Mass, mass, massIn } from "../units/index.ts"

/**
 * The most in one inner packaging of a limited quantity, by UN number and packing group, in liters or kilograms (49 CFR
 * 173.150 to 173.155, column 7a of ADR 3.2; from memory; the entries that the goods of this trade need). An entry that is
 * not here can't go as limited quantity until somebody adds it with its source.
 */
const limits: Readonly<Record<string, { readonly most: string; readonly unit: "L" | "kg" }>> = {
  "UN1170 II": { most: "1", unit: "L" },
  "UN1170 III": { most: "5", unit: "L" },
  "UN1219 II": { most: "1", unit: "L" },
  "UN1760 II": { most: "1", unit: "L" },
  "UN1760 III": { most: "5", unit: "L" },
  "UN1789 II": { most: "1", unit: "L" },
  "UN1789 III": { most: "5", unit: "L" },
  "UN1791 II": { most: "1", unit: "L" },
  "UN1791 III": { most: "5", unit: "L" },
  "UN1805 III": { most: "5", unit: "L" },
  "UN1814 II": { most: "1", unit: "L" },
  "UN1823 II": { most: "1", unit: "kg" },
  "UN1824 II": { most: "1", unit: "L" },
  "UN1824 III": { most: "5", unit: "L" },
  "UN1866 II": { most: "5", unit: "L" },
  "UN1866 III": { most: "5", unit: "L" },
  UN1950: { most: "1", unit: "L" },
  "UN1987 II": { most: "1", unit: "L" },
  "UN1987 III": { most: "5", unit: "L" },
  "UN1993 II": { most: "1", unit: "L" },
  "UN1993 III": { most: "5", unit: "L" },
  "UN2031 II": { most: "1", unit: "L" },
  "UN2693 III": { most: "5", unit: "L" },
  "UN2796 II": { most: "1", unit: "L" },
  "UN3082 III": { most: "5", unit: "L" },
  "UN3149 II": { most: "1", unit: "L" },
  "UN3264 II": { most: "1", unit: "L" },
  "UN3264 III": { most: "5", unit: "L" },
  "UN3266 II": { most: "1", unit: "L" },
  "UN3266 III": { most: "5", unit: "L" },
}

/** A package of limited quantities weighs no more than this (49 CFR 173.156(b), ADR 3.4.2). */
export const limitedPackageMost: Mass = mass("30", "kg")
/** The same of trays with shrink wrap (ADR 3.4.3). */
export const limitedTrayMost: Mass = mass("20", "kg")

/** Side of a mark on a package, and the least where the package has no room for it (49 CFR 172.315, from memory). */
export const markSide = { usual: 100, least: 50 } as const

export const limitOf = (unNumber: string, packingGroup: string) =>
  limits[[unNumber, packingGroup].filter(Boolean).join(" ")] ?? null

/** A quantity in the unit that limits are written in, where it is of the same kind; null where it is not. */
export function quantityIn(quantity: string, unit: string, wanted: "L" | "kg"): Decimal | null {
  const figure = new Decimal(quantity)
  if (unit === wanted) return figure
  if (unit === "mL" && wanted === "L") return figure.div(1000)
  if (unit === "g" && wanted === "kg") return figure.div(1000)
  return null
}

/** Whether a package is light enough; the limit itself is. */
export const withinLimitedPackage = (gross: Mass, tray = false): boolean =>
  massIn(gross, "kg").lte(massIn(tray ? limitedTrayMost : limitedPackageMost, "kg"))
