import { addToken, type TokenRight } from "server/accounts/tokens.ts"
import { openApi } from "server/api/openapi.ts"
import { findCustomers } from "server/decisions/customers.ts"
import { findItems } from "server/goods/index.ts"
import { intakePreview } from "server/intake/file.ts"
import { pullOrders } from "server/intake/pull.ts"
import { previewFile } from "server/intake/read.ts"
import { retryAside, takeIn } from "server/intake/take.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { sayTrouble } from "words/reasons.ts"
import { there } from "../../server/db/there.ts"
import { startApi } from "./apiServer.ts"
import { as, file, hasOrder, openRig, orderBySource, type Rig, row, takeFile, value, workAll } from "./rig.ts"

/** Whose number is whose: in files, sources and calls, between tokens and between warehouses. */
let rig: Rig
let end = () => {}
let base = ""
beforeAll(async () => {
  rig = await openRig()
  const server = await startApi(rig.db)
  base = server.base
  end = server.end
})
afterAll(async () => {
  end()
  await rig.drop()
})

const rights: TokenRight[] = ["orders.write", "orders.read", "quotes.write"]
const token = async (warehouse: number, more: { name?: string; follows?: number; rights?: TokenRight[] } = {}) =>
  value(
    await addToken(as(rig.context, { role: "administrator" }), {
      name: "Shop",
      rights,
      warehouse,
      days: 30,
      ...more,
    }),
  )
const order = (number: string, city = "Denver", more: Record<string, unknown> = {}) => ({
  number,
  orderedOn: "2026-11-24",
  customer: "Elk Run Taproom",
  shipTo: { street: "14 Growler Row", city, state: "CO", postalCode: "80205", kind: "business" },
  lines: [{ sku: "YST-ALE-500", quantity: 2 }],
  ...more,
})
let serial = 0
async function call(
  bearer: string,
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
) {
  serial += 1
  const response = await fetch(base + path, {
    method,
    headers: {
      authorization: `Bearer ${bearer}`,
      ...(body === undefined ? {} : { "content-type": "application/json" }),
      "idempotency-key": `identity-${serial}`,
      ...headers,
    },
    body: body === undefined ? undefined : typeof body === "string" ? body : JSON.stringify(body),
  })
  return { status: response.status, body: (await response.json()) as Record<string, unknown> }
}
const cities = async (...numbers: string[]) =>
  (await rig.db("sales_order").whereIn("source_number", numbers).orderBy("id").select("source_number", "city")).map(
    (one) => `${one.source_number} ${one.city}`,
  )

describe("numbers that differ by case or accent are two", () => {
  it("in a file, which is taken in whole", async () => {
    await takeFile(
      rig.context,
      row({ order_number: "aB3xQ1", city: "Denver" }),
      row({ order_number: "Ab3Xq1", city: "Boulder" }),
      row({ order_number: "café-1" }),
      row({ order_number: "cafe-1" }),
      row({ order_number: "after-them" }),
    )
    expect(await cities("aB3xQ1", "Ab3Xq1")).toEqual(["aB3xQ1 Denver", "Ab3Xq1 Boulder"])
    expect(await cities("café-1", "cafe-1")).toHaveLength(2)
    expect(await hasOrder(rig.db, "after-them")).toBe(true)
  })
  it("in calls, with keys that differ as little", async () => {
    const { token: shop } = await token(1)
    const keys = ["Key-of-one-A", "key-of-one-a"]
    const told = [
      await call(shop, "POST", "/orders", order("xY-1", "Denver"), { "idempotency-key": keys[0] as string }),
      await call(shop, "POST", "/orders", order("Xy-1", "Boulder"), { "idempotency-key": keys[1] as string }),
    ]
    expect(told.map((one) => one.status)).toEqual([201, 201])
    expect(await cities("xY-1", "Xy-1")).toEqual(["xY-1 Denver", "Xy-1 Boulder"])
    expect((await call(shop, "GET", "/orders/XY-1")).status).toBe(404)
    // by the same normalization by which it was written down
    expect((await call(shop, "GET", `/orders/${encodeURIComponent("\u200bxY-1\u00a0")}`)).body.orderNumber).toBe(
      told[0]?.body.orderNumber,
    )
  })
  it("in a source that is asked, which goes on after them", async () => {
    const id = there(await rig.db("order_source").where({ code: "shop" }).first("id")).id
    const orders = [order("pU-1"), order("Pu-1", "Boulder"), order("pu-2")]
    const page = async (_url: string, after: string) => ({ orders: after === "" ? orders : [], next: "1" })
    expect(await pullOrders(rig.db, id, page as never)).toBe(3)
    expect(await cities("pU-1", "Pu-1", "pu-2")).toHaveLength(3)
  })
  it("and the same number written with other blanks and accents is one", async () => {
    await takeFile(rig.context, row({ order_number: "PO 4711", po_number: "first" }))
    await takeFile(rig.context, row({ order_number: " PO\u00a04711\u200b ", po_number: "second" }))
    expect(await rig.db("sales_order").where({ source_number: "PO 4711" })).toHaveLength(1)
    await takeFile(rig.context, row({ order_number: "cafe\u0301-1", po_number: "composed" }))
    expect((await orderBySource(rig.db, "café-1")).po_number).toBe("composed")
  })
  it("while words are found in any case", async () => {
    expect((await findItems(rig.context, "yst-ale")).map((one) => one.sku)).toContain("YST-ALE-500")
    const known = (await findCustomers(rig.context, "elk run")).map((one) => one.name)
    expect(known).toContain("Elk Run Taproom")
    // our own codes are typed as people like
    await takeFile(rig.context, row({ order_number: "low", sku: "yst-ale-500", customer: "elk run taproom" }))
    expect((await orderBySource(rig.db, "low")).customer_name).toBe("Elk Run Taproom")
  })
  it("and a name is taken for one of two that differ by a letter's case only when it is written so", async () => {
    await rig.db("customer").insert([
      { code: "NORD1", name: "Café Nord" },
      { code: "NORD2", name: "Cafe Nord" },
    ])
    await takeFile(
      rig.context,
      row({ order_number: "n-1", customer: "Cafe Nord" }),
      row({ order_number: "n-2", customer: "CAFE NORD" }),
    )
    const who = async (number: string) => (await orderBySource(rig.db, number)).customer_id
    expect(await who("n-1")).toBe(there(await rig.db("customer").where({ code: "NORD2" }).first("id")).id)
    expect(await who("n-2")).toBeNull()
  })
})

describe("one order that can't be taken in", () => {
  it("is set aside, shown, and taken in alone when its cause is gone; those after it came in at once", async () => {
    const level = await rig
      .db("item_level as v")
      .join("item as i", "i.id", "v.item_id")
      .where({ "i.sku": "YST-ALE-500", "v.name": "case" })
      .first("v.*")
    const id = await previewFile(
      rig.context,
      "file",
      "aside.csv",
      file(row({ order_number: "as-1", unit: "case" }), row({ order_number: "as-2" }), row({ order_number: "as-3" })),
    )
    await rig.db("item_level").where({ id: level.id }).delete()
    expect(await takeIn(rig.context, id)).toBe(true)
    const fates = async () => (await intakePreview(rig.context, id))?.orders.map((one) => one.fate)
    expect(await fates()).toEqual(["aside", "new", "new"])
    expect(sayTrouble((await intakePreview(rig.context, id))?.orders[0]?.trouble)).toMatch(
      /no longer has the unit case/,
    )
    expect(await retryAside(rig.context, id)).toBe(1)
    expect(await fates()).toEqual(["aside", "new", "new"])
    await rig.db("item_level").insert(level)
    await workAll(rig.db)
    expect(await fates()).toEqual(["new", "new", "new"])
    expect(await hasOrder(rig.db, "as-1")).toBe(true)
    // once more changes nothing
    expect(await retryAside(rig.context, id)).toBe(0)
    expect((await intakePreview(rig.context, id))?.takenCount).toBe(3)
  })
})

describe("a number of another warehouse", () => {
  it("changes nothing there, in a file of a source that both use", async () => {
    await takeFile(rig.context, row({ order_number: "wall-1", po_number: "of Duluth" }))
    const reno = as(rig.context, { warehouseId: 2 })
    const id = await previewFile(reno, "file", "reno.csv", file(row({ order_number: "wall-1", po_number: "of Reno" })))
    expect((await intakePreview(reno, id))?.orders).toMatchObject([{ fate: "other-warehouse", orderNumber: null }])
    await takeIn(reno, id)
    expect((await intakePreview(reno, id))?.orders).toMatchObject([{ fate: "other-warehouse", orderNumber: null }])
    expect((await orderBySource(rig.db, "wall-1")).po_number).toBe("of Duluth")
  })
})

describe("tokens", () => {
  it("have numbers of their own: none reads, changes or cancels another's, in one warehouse or in two", async () => {
    const [one, two, reno] = [await token(1), await token(1), await token(2)]
    const made = await call(one.token, "POST", "/orders", order("T-1", "Denver"))
    expect(made.status).toBe(201)
    for (const other of [two, reno]) {
      expect((await call(other.token, "GET", "/orders/T-1")).status).toBe(404)
      expect((await call(other.token, "POST", "/orders/T-1/cancellation")).status).toBe(404)
      expect((await call(other.token, "POST", "/orders", order("T-1", "Boulder"))).status).toBe(201)
    }
    expect(await cities("T-1")).toEqual(["T-1 Denver", "T-1 Boulder", "T-1 Boulder"])
    expect((await call(one.token, "GET", "/orders/T-1")).body.orderNumber).toBe(made.body.orderNumber)
    expect((await call(one.token, "POST", "/orders/T-1/cancellation")).body.fate).toBe("cancelled")
    const left = await rig.db("sales_order").where({ source_number: "T-1" }).whereNull("cancelled_at")
    expect(left).toHaveLength(2)
  })
  it("get their own answers under the same key, of orders and of quotes", async () => {
    const [one, two] = [await token(1), await token(1)]
    const asked = (city: string) => ({
      customer: "",
      shipTo: { street: "1 Any Street", city, state: "CO", postalCode: "80205", kind: "business" },
      packages: [{ count: 1, weight: "22", length: "20", width: "15", height: "13" }],
    })
    const key = { "idempotency-key": "the-same-for-both" }
    const quotes = [
      await call(one.token, "POST", "/quotes", asked("Denver"), key),
      await call(two.token, "POST", "/quotes", asked("Boulder"), key),
      await call(one.token, "POST", "/quotes", asked("Denver"), key),
    ]
    expect(quotes.map((each) => each.status)).toEqual([201, 201, 201])
    expect(quotes[0]?.body.number).not.toBe(quotes[1]?.body.number)
    expect(quotes[2]?.body.number).toBe(quotes[0]?.body.number)
  })
  it("that follow an earlier one of the same warehouse go on with its orders", async () => {
    const first = await token(1)
    const made = await call(first.token, "POST", "/orders", order("T-2"))
    const next = await token(1, { follows: first.id })
    expect((await call(next.token, "POST", "/orders", order("T-2"))).body).toMatchObject({
      fate: "unchanged",
      orderNumber: made.body.orderNumber,
    })
    expect(
      await addToken(as(rig.context, { role: "administrator" }), {
        name: "x",
        rights,
        warehouse: 2,
        days: 1,
        follows: first.id,
      }),
    ).toMatchObject({ ok: false, reasons: [{ code: "token.no-earlier" }] })
  })
})

describe("the API, each of its routes", () => {
  /** What is called, and the right that it needs; a route that is not here fails the first test. */
  const routes: Record<string, { method: string; at: string; right: TokenRight; body?: unknown }> = {
    "/orders": { method: "POST", at: "/orders", right: "orders.write", body: order("R-1") },
    "/orders/bulk": { method: "POST", at: "/orders/bulk", right: "orders.write", body: { orders: [order("R-2")] } },
    "/quotes": { method: "POST", at: "/quotes", right: "quotes.write", body: {} },
    "/orders/{number}/cancellation": { method: "POST", at: "/orders/low/cancellation", right: "orders.write" },
    "/orders/{number}/invoice": {
      method: "POST",
      at: "/orders/low/invoice",
      right: "orders.write",
      body: { number: "INV-1", freight: "12.00", currency: "USD" },
    },
    "/orders/{number}/reports": { method: "GET", at: "/orders/low/reports", right: "orders.read" },
    "/orders/{number}": { method: "GET", at: "/orders/low", right: "orders.read" },
  }
  it("is listed here", () => {
    expect(Object.keys(routes).sort()).toEqual(Object.keys((openApi() as { paths: object }).paths).sort())
  })
  it.each(Object.entries(routes))(
    "%s needs a token with its right, and finds nothing of others",
    async (_path, route) => {
      const others = rights.filter((right) => right !== route.right)
      const without = await token(1, { rights: others })
      const before = await rig.db("sales_order").count({ n: "*" }).first()
      expect((await call("vk_none-none-none", route.method, route.at, route.body)).status).toBe(401)
      expect((await call(without.token, route.method, route.at, route.body)).status).toBe(403)
      const stranger = await token(2, { rights: [route.right] })
      // `low` came by a file of Duluth: to any token it is not there
      if (/low/.test(route.at))
        expect((await call(stranger.token, route.method, route.at, route.body)).status).toBe(404)
      expect(await rig.db("sales_order").count({ n: "*" }).first()).toEqual(before)
    },
  )
  it.each(Object.entries(routes))(
    "%s refuses what is too much before it is parsed, and says nothing of it back",
    async (_path, route) => {
      const { token: shop } = await token(1)
      const bodies: [string, unknown, number[]][] =
        route.method === "GET"
          ? []
          : [
              ["10 MB", `"${"secret".repeat(1_800_000)}"`, [413]],
              [
                "100 000 fields",
                `{${Array.from({ length: 100_000 }, (_, n) => `"secret${n}":1`).join(",")}}`,
                [400, 413],
              ],
              ["500 000 values", `{"orders":[${"1,".repeat(499_999)}1]}`, [400, 413]],
              ["deep brackets", `${"[".repeat(100_000)}`, [400]],
              ["half a letter", '"\ud800', [400]],
            ]
      for (const [name, body, statuses] of bodies) {
        const answer = await call(shop, route.method, route.at, body)
        // a cancellation has no body: what is not too large for it is not read, and the order is not this token's
        if (route.at.endsWith("cancellation") && name !== "10 MB") statuses.push(404)
        expect([name, statuses.includes(answer.status), answer.status]).toEqual([name, true, answer.status])
        expect(JSON.stringify(answer.body).length).toBeLessThan(20_000)
        expect(JSON.stringify(answer.body).match(/secret/g)?.length ?? 0).toBeLessThan(30)
      }
      // a caller without a token is not read at all
      const stranger = await call("vk_none-none-none", "POST", "/orders", `"${"x".repeat(900_000)}"`)
      expect(stranger.status).toBe(401)
    },
  )
  it("answers numbers that are none with 404, and of many orders refuses the bad ones alone", async () => {
    const { token: shop } = await token(1)
    for (const number of ["%00", "x".repeat(2_000), "..%2f..", "%F0%9F%92%A9"])
      expect((await call(shop, "GET", `/orders/${number}`)).status).toBe(404)
    expect((await call(shop, "GET", "/orders/%E0%A4%A")).status).toBe(400)
    const told = await call(shop, "POST", "/orders/bulk", {
      orders: [order("B-1"), { number: "B-2" }, 7, order("B-3")],
    })
    expect((told.body.results as { status: number }[]).map((one) => one.status)).toEqual([201, 400, 400, 201])
  })

  it("refuses another order of a call that has the number of one before it, and takes the same one as the same", async () => {
    const { token: shop } = await token(1)
    const first = order("B-9")
    const told = await call(shop, "POST", "/orders/bulk", {
      orders: [
        first,
        { ...first, customer: "Somebody Else" },
        first,
        { ...first, lines: [{ sku: "BUN-10", quantity: 1 }] },
      ],
    })
    const results = told.body.results as {
      status: number
      reasons?: { code: string; values: Record<string, string> }[]
    }[]
    expect(results.map((one) => one.status)).toEqual([201, 422, 200, 422])
    expect(results[1]?.reasons?.[0]).toMatchObject({
      code: "row.differs",
      values: { field: "customer", value: "Somebody Else", first: first.customer },
    })
    expect(results[3]?.reasons?.[0]?.code).toBe("row.twice")
  })
})
