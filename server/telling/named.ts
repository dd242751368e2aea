import { z } from "zod"

/** Whom else an order's messages go to, as it is kept with the order. */
export const moreRecipients = z.array(
  z.object({
    way: z.enum(["mail", "text"]),
    address: z.string().max(120),
    name: z.string().max(60).default(""),
    language: z.string().max(2).default(""),
  }),
)
