import type { Migration } from "../migrate.ts"

/** What pages ask for at every request is found by index. Every statement may be run again. */
export const cheapPages: Migration = {
  name: "0019-cheap-pages",
  statements: ["ALTER TABLE change_notice ADD INDEX IF NOT EXISTS of_warehouse (warehouse_id, id)"],
}
