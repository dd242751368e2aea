import { z } from "zod"
import type { LocalDate } from "../calendar/index.ts"
import type { OrderId } from "../ids/index.ts"
import type { FreightClass, JustOver } from "../rating/index.ts"
import { type OptionCode, optionCodes } from "../tariff/index.ts"

/** Something by which a shipment would cost less by the named service, each rated anew and true; plain data. */
export type Advice = Told & { readonly saves: string }
export type Told = { readonly service: string } & (
  | { readonly kind: "repack"; readonly boxes: readonly { readonly code: string | null }[] }
  /** On a pallet instead of loose, or loose instead of on a pallet. */
  | { readonly kind: "pallet" | "loose" }
  /** Leaving on a later day, with the day of arrival. */
  | { readonly kind: "later"; readonly day: LocalDate; readonly arrives: LocalDate }
  /** An option that a preference asks for, and not the customer. */
  | { readonly kind: "option"; readonly option: OptionCode }
  /** A package that is just over a step. */
  | {
      readonly kind: "step"
      readonly package: number
      readonly by: JustOver["by"]
      readonly figure: string
      readonly over: string
      readonly unit: JustOver["unit"]
      readonly freightClass: FreightClass | ""
    }
  /** As one shipment with other orders for the same place. */
  | { readonly kind: "join"; readonly orders: readonly { readonly id: OrderId; readonly orderNumber: string }[] }
  /** Billed as the customer's instruction says, and not to us as somebody asked for this shipment. */
  | { readonly kind: "payer"; readonly terms: "collect" | "third-party"; readonly account: string }
  /** From another warehouse that has it all. */
  | { readonly kind: "warehouse"; readonly warehouse: number; readonly name: string }
)

/** What is sent to take an advice: which, and what it is about. */
export const adviceAsk = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.enum(["repack", "pallet", "loose", "payer"]) }),
  z.strictObject({ kind: z.literal("later"), day: z.string().max(10) }),
  z.strictObject({ kind: z.literal("option"), option: z.enum(optionCodes) }),
  z.strictObject({ kind: z.literal("join"), orders: z.array(z.number().int().min(1)).min(1).max(20) }),
  z.strictObject({ kind: z.literal("warehouse"), warehouse: z.number().int().min(1) }),
])
export type AdviceAsk = z.infer<typeof adviceAsk>

/** How an advice is asked for; null where somebody must do it with his hands. */
export function askOf(one: Advice): AdviceAsk | null {
  switch (one.kind) {
    case "later":
      return { kind: one.kind, day: one.day }
    case "option":
      return { kind: one.kind, option: one.option }
    case "join":
      return { kind: one.kind, orders: one.orders.map(({ id }) => id) }
    case "warehouse":
      return { kind: one.kind, warehouse: one.warehouse }
    case "step":
      return null
    default:
      return { kind: one.kind }
  }
}
