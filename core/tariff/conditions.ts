import { z } from "zod"
import { code, country, date, figure } from "./atoms.ts"
import { optionCodes } from "./options.ts"

/**
 * What a charge, a size class or a refusal depends on. Weights and edges are in the service's units, volumes in the
 * cube of its unit of length, values in the tariff's currency. A condition on a package holds for each by itself;
 * on a service that is priced as a whole, it holds when it does for any package.
 */
const fact = z.discriminatedUnion("fact", [
  /** The receiver is a home, or nobody has confirmed that it is a business. */
  z.strictObject({ fact: z.literal("residential") }),
  z.strictObject({ fact: z.literal("option"), option: z.enum(optionCodes) }),
  z.strictObject({ fact: z.literal("weight-over"), figure }),
  z.strictObject({ fact: z.literal("longest-over"), figure }),
  z.strictObject({ fact: z.literal("second-over"), figure }),
  z.strictObject({ fact: z.literal("girth-over"), figure }),
  z.strictObject({ fact: z.literal("volume-over"), figure }),
  z.strictObject({ fact: z.literal("size-class"), sizeClass: code }),
  /** A kind of packaging by UNECE Recommendation 21, such as `DR` for a drum, or the code of the catalog. */
  z.strictObject({ fact: z.literal("packaging"), packaging: z.array(code).min(1) }),
  z.strictObject({ fact: z.literal("not-stackable") }),
  /** The receiver's place, by one of the tariff's named areas. */
  z.strictObject({ fact: z.literal("area"), area: code }),
  z.strictObject({ fact: z.literal("country"), countries: z.array(country).min(1) }),
  z.strictObject({ fact: z.literal("zone"), zones: z.array(code).min(1) }),
  z.strictObject({ fact: z.literal("value-over"), figure }),
  z.strictObject({ fact: z.literal("dangerous") }),
  z.strictObject({ fact: z.literal("pieces-over"), figure }),
  z.strictObject({ fact: z.literal("total-over"), figure }),
  /** Feet or meters of floor that the shipment takes. */
  z.strictObject({ fact: z.literal("floor-over"), figure }),
  /** Days of sending, both included. */
  z.strictObject({ fact: z.literal("season"), from: date, until: date }),
])
export type Fact = z.infer<typeof fact>

export type Condition =
  | Fact
  | { readonly all: readonly Condition[] }
  | { readonly any: readonly Condition[] }
  | { readonly not: Condition }

export const conditionSchema: z.ZodType<Condition> = z.lazy(() =>
  z.union([
    fact,
    z.strictObject({ all: z.array(conditionSchema).min(1).max(12) }),
    z.strictObject({ any: z.array(conditionSchema).min(1).max(12) }),
    z.strictObject({ not: conditionSchema }),
  ]),
)

/** Every fact that a condition looks at, wherever it stands in it. */
export function factsIn(condition: Condition): Fact[] {
  if ("fact" in condition) return [condition]
  if ("not" in condition) return factsIn(condition.not)
  return ("all" in condition ? condition.all : condition.any).flatMap(factsIn)
}
