import type { Knex } from "knex"
import { z } from "zod"
import { jobKind } from "../jobs/kind.ts"
import { rowId } from "../jobs/shapes.ts"

/** Asks a carrier what became of what he carries for us. */
export const pullingEvents = jobKind({
  name: "tracking.pull",
  payload: z.object({ carrierId: rowId }),
  needs: "outside",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})

/** Looks at what time itself says of packages on their way. */
export const lookingAtUnits = jobKind({
  name: "tracking.look",
  payload: z.object({}),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1 / 144,
})

/** Works out anew what was told by a code, once somebody has said what it means. */
export const refollowing = jobKind({
  name: "tracking.code",
  payload: z.object({ carrierId: rowId, code: z.string().min(1).max(40) }),
  needs: "database",
  owner: () => ({ warehouseId: null }),
  keptDays: 1,
})

/** Gives a carrier another address for a package that he can't deliver. */
export const readdressing = jobKind({
  name: "tracking.readdress",
  payload: z.object({ readdressId: rowId }),
  needs: "outside",
  owner: async (trx: Knex, { readdressId }) => {
    const row = await trx("tracking_readdress as r")
      .join("tracked_unit as u", "u.id", "r.unit_id")
      .where("r.id", readdressId)
      .first("u.warehouse_id", "u.order_id")
    return { warehouseId: row?.warehouse_id ?? null, orderId: row?.order_id ?? null }
  },
  keptDays: null,
})
