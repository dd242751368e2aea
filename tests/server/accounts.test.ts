import { actorOf, signIn, switchWarehouse } from "server/accounts/sessions.ts"
import { tokens } from "server/accounts/tokens.ts"
import { addUser, changeUser, users } from "server/accounts/users.ts"
import { NotAllowed, type Role } from "server/actors/index.ts"
import { changes } from "server/audit/index.ts"
import { dayView } from "server/day/index.ts"
import { keepDay } from "server/day/keep.ts"
import { changeAddress } from "server/decisions/address.ts"
import { holdOrder } from "server/decisions/hold.ts"
import { completeItem } from "server/decisions/items.ts"
import { documentBytes } from "server/documents/index.ts"
import { findItems } from "server/goods/index.ts"
import { orderFilter } from "server/orders/filter.ts"
import { findOrders } from "server/orders/list.ts"
import { closePackages } from "server/packing/index.ts"
import { collectionsOn } from "server/setup/collections.ts"
import { warehouseById, warehousesOf } from "server/setup/warehouse.ts"
import { askVoid } from "server/shipping/void.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { there } from "../../server/db/there.ts"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const role = (name: Role) => as(rig.context, { role: name })
const newUser = {
  username: "nils",
  name: "Nils Aas",
  role: "clerk" as const,
  warehouse: [1],
  password: "long enough to keep",
}

describe("rights", () => {
  it("are checked by every use case, whoever asks", async () => {
    const sales = role("sales")
    const refused: [string, () => Promise<unknown>][] = [
      ["take a file", () => takeFile(sales, row())],
      ["stop an order", () => holdOrder(sales, 1, true)],
      ["close packages", () => closePackages(sales, 1)],
      ["make a label void", () => askVoid(sales, 1)],
      ["read a paper", () => documentBytes(sales, 1)],
      ["complete an item", () => completeItem(sales, {} as never)],
      ["end a stop, as a clerk", () => holdOrder(role("clerk"), 1, false)],
      ["see users, as the lead", () => users(role("lead"))],
      ["see tokens, as the lead", () => tokens(role("lead"))],
      ["add a user, as the lead", () => addUser(role("lead"), newUser)],
      ["change an address", () => changeAddress(sales, 1, {} as never)],
    ]
    for (const [, attempt] of refused) await expect(attempt()).rejects.toThrow(NotAllowed)
    expect((await findItems(sales, "")).length).toBeGreaterThan(50)
  })
})

describe("users", () => {
  it("are added and changed by an administrator, and every change is kept with who made it", async () => {
    const admin = role("administrator")
    const { id } = value(await addUser(admin, newUser))
    expect(codes(await addUser(admin, newUser))).toEqual(["user.username-taken"])
    const signed = await signIn(rig.db, "nils", "long enough to keep")
    expect(await actorOf(rig.db, signed?.token ?? "")).toMatchObject({ role: "clerk", warehouseId: 1 })
    const change = { id, role: "sales" as const, active: "yes" as const, warehouse: [2], password: "" }
    value(await changeUser(admin, change))
    expect(await actorOf(rig.db, signed?.token ?? "")).toMatchObject({ role: "sales", warehouseId: 2 })
    value(await changeUser(admin, { ...change, password: "another one for him" }))
    expect(await actorOf(rig.db, signed?.token ?? "")).toBeNull()
    expect(await signIn(rig.db, "nils", "long enough to keep")).toBeNull()
    value(await changeUser(admin, { ...change, active: "no" }))
    expect(await signIn(rig.db, "nils", "another one for him")).toBeNull()
    const { entries } = await changes(rig.db, { action: "user." })
    expect(entries.map((one) => [one.action, one.actor]).reverse()).toEqual([
      ["user.added", "Maren Holt"],
      ["user.changed", "Maren Holt"],
      ["user.changed", "Maren Holt"],
      ["user.changed", "Maren Holt"],
    ])
    expect(JSON.stringify(entries)).not.toContain("another one for him")
    expect(entries.at(-2)?.detail.changes).toEqual([
      { field: "role", from: "clerk", to: "sales" },
      { field: "warehouses", from: "1", to: "2" },
    ])
  })
  it("never lose their last administrator", async () => {
    const { id } = there(await rig.db("user").where({ username: "ada" }).first("id"))
    const gone = { id, role: "lead" as const, active: "yes" as const, warehouse: [1], password: "" }
    expect(codes(await changeUser(role("administrator"), gone))).toEqual(["user.last-administrator"])
    expect(
      codes(
        await changeUser(role("administrator"), { ...gone, role: "administrator" as never, active: "no" as never }),
      ),
    ).toEqual(["user.last-administrator"])
  })
})

describe("the second warehouse", () => {
  it("is switched to by those who may be there, for their session only", async () => {
    const signed = await signIn(rig.db, "maren", "cellar-door")
    const other = await signIn(rig.db, "maren", "cellar-door")
    const actor = await actorOf(rig.db, signed?.token ?? "")
    if (!actor) throw new Error("not signed in")
    await switchWarehouse(rig.db, signed?.token ?? "", actor, 2)
    expect((await actorOf(rig.db, signed?.token ?? ""))?.warehouseId).toBe(2)
    expect((await actorOf(rig.db, other?.token ?? ""))?.warehouseId).toBe(1)
    await rig.db("user_warehouse").where("user_id", actor.userId).where({ warehouse_id: 2 }).delete()
    expect((await actorOf(rig.db, signed?.token ?? ""))?.warehouseId).toBe(1)
    await expect(switchWarehouse(rig.db, signed?.token ?? "", actor, 2)).rejects.toThrow(NotAllowed)
    expect((await warehousesOf({ db: rig.db, actor })).map((one) => one.name)).toEqual(["Duluth"])
  })

  it("has its own day in its own zone, its own doors, stock and orders", async () => {
    const context = as(rig.context, { warehouseId: 2 })
    const warehouse = await warehouseById(rig.db, 2)
    await keepDay(rig.db, 2, context.now)
    const trucks = await collectionsOn(rig.db, 2, "2026-11-24")
    // 12:45 in Los Angeles is 20:45 in UTC, two hours after the same wall time in Chicago
    expect(trucks.map((one) => [one.door, one.cutOff.toISOString()])[0]).toEqual(["4", "2026-11-24T20:45:00.000Z"])
    await takeFile(context, row({ order_number: "R-1", sku: "YST-ALE-500" }))
    const order = await orderBySource(rig.db, "R-1")
    expect(order.warehouse_id).toBe(2)
    const bins = await rig
      .db("allocation as a")
      .join("stock as s", "s.id", "a.stock_id")
      .join("order_line as l", "l.id", "a.order_line_id")
      .where({ "l.order_id": order.id })
      .pluck("s.warehouse_id")
    expect(new Set(bins)).toEqual(new Set([2]))
    const day = await dayView(context, warehouse)
    expect(day.counts.toGo).toBe(1)
    expect((await dayView(rig.context, await warehouseById(rig.db, 1))).counts.toGo).toBe(0)
    expect(
      (await findOrders(rig.context, await warehouseById(rig.db, 1), orderFilter.parse({ find: "R-1" }), null)).orders,
    ).toEqual([])
    expect(codes(await changeAddress(rig.context, order.id, { version: 1 } as never))).toEqual(["order.unknown"])
  })
})

describe("an item that lacks something", () => {
  it("is completed, and the orders that waited for it go on; an edit on old ground is refused", async () => {
    await rig.db("item").where({ sku: "TAN-GRP-1" }).update({ weight_kg: null })
    await takeFile(rig.context, row({ order_number: "W-1", sku: "TAN-GRP-1", quantity: "1" }))
    const order = await orderBySource(rig.db, "W-1")
    expect(await rig.db("order_stop").where({ order_id: order.id }).pluck("code")).toEqual(["stop.weight-missing"])
    const [item] = await findItems(rig.context, "TAN-GRP-1")
    if (!item) throw new Error("no item")
    expect(item.gaps).toEqual(["pounds"])
    const form = {
      id: item.id,
      version: item.version,
      pounds: "2.3",
      freightClass: "" as const,
      customsDescription: item.customsDescription,
      hsCode: item.hsCode,
      origin: item.origin,
    }
    expect(value(await completeItem(rig.context, form)).freed).toBe(1)
    expect(await rig.db("order_stop").where({ order_id: order.id })).toEqual([])
    expect(codes(await completeItem(rig.context, { ...form, pounds: "9" }))).toEqual(["item.changed-meanwhile"])
    expect(value(await completeItem(rig.context, form)).freed).toBe(0)
  })
})
