import { z } from "zod"
import { strokesSchema } from "../signature/index.ts"

const line = (most: number) => z.string().trim().max(most).default("")

/** What a bill of lading says besides the shipment itself; typed before it is bought, or when the truck is there. */
export const ladingSchema = z.strictObject({
  /** The carrier's number, where it is none of ours and is written at collection. */
  proNumber: line(30),
  /** When the receiver expects it, in his words. */
  appointment: line(60),
  instructions: line(200),
  seal: line(20),
  trailer: line(20),
  stackable: z.boolean().default(false),
  /** Value that the carrier's liability is limited to, in the warehouse's currency. */
  value: z
    .string()
    .regex(/^(\d{1,9}(\.\d{1,2})?)?$/, { error: "customs.amount" })
    .default(""),
  /** Who is billed where a third party pays, one line each. */
  billTo: z.string().trim().max(240).default(""),
  driver: line(60),
  counted: z
    .string()
    .regex(/^\d{0,4}$/, { error: "lading.counted" })
    .default(""),
  /** The driver's signature, as he wrote it at the dock. */
  strokes: strokesSchema.default([]),
})
/** What is known only when the truck is there. */
export const collectedSchema = ladingSchema.pick({
  proNumber: true,
  trailer: true,
  seal: true,
  driver: true,
  counted: true,
  strokes: true,
})
export const nothingCollected = collectedSchema.parse({})
export type Lading = z.infer<typeof ladingSchema>
export const noLading: Lading = ladingSchema.parse({})
