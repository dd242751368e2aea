import { z } from "zod"
import { labelForms } from "../documents/labelForms.ts"
import { optionCodes } from "../tariff/options.ts"

const code = z.string().regex(/^[A-Z0-9]{2,8}$/)

/** What a person, a bench or a warehouse is used to, where nobody says otherwise of a shipment. */
export const preferencesSchema = z.strictObject({
  /** The form of labels, where the printer has the sheet for it; empty: not said. */
  labelForm: z.enum(["", ...labelForms]).default(""),
  /** What carriers are asked for besides carrying, where no rule, customer or person says; none: not said. */
  options: z.array(z.enum(optionCodes)).max(optionCodes.length).default([]),
  /** Carriers and single services that are not shown in a comparison, and not proposed. */
  hiddenCarriers: z.array(code).max(200).default([]),
  hiddenServices: z.array(code).max(500).default([]),
})
export type Preferences = z.infer<typeof preferencesSchema>

export const noPreferences: Preferences = preferencesSchema.parse({})

/** Whose preference something is: a person's goes before the bench's, which goes before the warehouse's. */
export const preferers = ["user", "bench", "warehouse"] as const
export interface PreferredBy {
  readonly kind: (typeof preferers)[number]
  /** What bench or warehouse; empty: the person himself. */
  readonly name: string
}

/** What somebody prefers, with who it is. */
export interface Preferred {
  readonly by: PreferredBy
  readonly body: Preferences
}

const rank = (one: Preferred): number => preferers.indexOf(one.by.kind)

/** Of one thing that can be said once, what the nearest says; null where nobody does. */
export function preferred<Name extends "labelForm" | "options">(
  all: readonly Preferred[],
  name: Name,
): { readonly value: Preferences[Name]; readonly by: PreferredBy } | null {
  const said = [...all].sort((a, b) => rank(a) - rank(b)).find((one) => one.body[name].length > 0)
  return said ? { value: said.body[name], by: said.by } : null
}

/** Who hides a service, by itself or with its carrier: the nearest; null where nobody does. */
export function hiddenBy(
  all: readonly Preferred[],
  service: { readonly code: string; readonly carrierCode: string },
): PreferredBy | null {
  const hides = ({ body }: Preferred) =>
    body.hiddenServices.includes(service.code) || body.hiddenCarriers.includes(service.carrierCode)
  return [...all].sort((a, b) => rank(a) - rank(b)).find(hides)?.by ?? null
}
