import { z } from "zod"
import { roles } from "../actors/index.ts"

/** A row's number, as payloads of jobs name what they work on. */
export const rowId = z.number().int().positive()

/** Who asked for a job, as it is kept with it; `userId` is null for the program itself. */
export const actorShape = z.object({
  userId: z.number().int().nullable(),
  name: z.string(),
  role: z.enum(roles),
  warehouseId: rowId,
})

/** Who asked, where only the name is told. */
export const nameShape = z.object({ userId: z.number().int().nullable(), name: z.string() })
