import type { SlipSettings } from "core/documents/index.ts"
import { z } from "zod"

/** The settings of slips as they are stored: only what somebody said. */
export const slipSchema = z.strictObject({
  per: z.enum(["package", "shipment"]).optional(),
  prices: z.boolean().optional(),
  lots: z.boolean().optional(),
  backOrders: z.boolean().optional(),
  message: z.string().trim().max(400).optional(),
  letterhead: z.array(z.string().trim().max(60)).max(5).optional(),
}) satisfies z.ZodType<Partial<SlipSettings>>
