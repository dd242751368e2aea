import { businessNow } from "../clock/index.ts"
import { type Handler, handler } from "../jobs/kind.ts"
import { warehouses } from "../setup/warehouse.ts"
import { keepingDay } from "./jobs.ts"
import { keepDay } from "./keep.ts"

export const dayHandlers: readonly Handler[] = [
  handler(
    keepingDay,
    async ({ db, payload }) => keepDay(db, payload.warehouseId, await businessNow(db)),
    async (db) =>
      (await warehouses(db)).map(({ id }) => ({
        everyMs: 20_000,
        key: `${keepingDay.name}:${id}`,
        payload: { warehouseId: id },
      })),
  ),
]
