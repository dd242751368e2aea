import { expect, it } from "vitest"
import { LockWatch } from "./lockOrder.ts"

const locking = (table: string) => `select * from \`${table}\` where \`id\` = ? for update`
const note = (...statements: string[]) => {
  const watch = new LockWatch()
  for (const statement of statements) watch.note(statement)
}

it("lets a transaction lock in the one order, and again what it has locked", () => {
  expect(() =>
    note("BEGIN;", locking("sales_order"), locking("shipment"), locking("stock"), locking("sales_order")),
  ).not.toThrow()
})
it("fails the first lock of a table after one that comes later", () => {
  expect(() => note("BEGIN;", locking("shipment"), locking("sales_order"))).toThrow(
    "locks out of order: sales_order after shipment",
  )
})
it("begins anew with each transaction, and minds neither reading nor tables that are in no order", () => {
  expect(() =>
    note("BEGIN;", locking("stock"), "COMMIT;", "BEGIN;", locking("shipment"), "ROLLBACK", locking("sales_order")),
  ).not.toThrow()
  expect(() => note("BEGIN;", locking("stock"), "select * from `sales_order`", locking("tote"))).not.toThrow()
})
