import { randomUUID } from "node:crypto"
import type { WarehouseId } from "core/ids/index.ts"
import { rechecking } from "server/decisions/jobs.ts"
import { importing } from "server/intake/jobs.ts"
import { clearUp } from "server/jobs/clearUp.ts"
import { failedJobs, retryJob } from "server/jobs/failed.ts"
import { enqueue } from "server/jobs/queue.ts"
import { postMail } from "server/mail/index.ts"
import { makeRun } from "server/shippingRuns/make.ts"
import { handlers } from "server/worker/handlers.ts"
import { queueDue, workOnce } from "server/worker/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { sayTrouble, wordFor } from "words/reasons.ts"
import { there } from "../../server/db/there.ts"
import { as, askForLabels, openRig, type Rig, readyToBuy, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

const named = (name: string) => handlers.filter((one) => one.name === name)

describe("a job that has given up", () => {
  it("stands with those whose it is, under a name that they know, with its order where it has one", async () => {
    const { db, context } = rig
    const { orderId, shipment } = await readyToBuy(context, "J-1")
    await askForLabels(context, orderId, shipment)
    const { order_number: orderNumber } = there(await db("sales_order").where({ id: orderId }).first("order_number"))
    await postMail(db, {
      onceKey: "mail:1",
      warehouseId: 1,
      to: "anna@example.com",
      subject: "Freight quote",
      body: "",
      attachment: null,
      quoteId: null,
      by: "Maren",
      at: context.now,
    })
    value(await makeRun(context, [orderId], { rule: "cheapest" }, "run:1"))
    await importing.queue(db, "import:1", { intakeId: 1, part: 0, by: { ...context.actor, warehouseId: 2 } })
    await rechecking.queue(db, "recheck:1", { after: 0, by: { userId: null, name: "Ada" } })
    await db("job").where({ state: "waiting" }).update({ state: "dead", trouble: "no luck" })
    const of = async (warehouseId: WarehouseId) =>
      (await failedJobs(as(context, { warehouseId })))
        .filter((one) => one.trouble === "no luck")
        .map((one) => [one.kind, one.orderNumber])
        .toSorted()
    expect(await of(1)).toEqual([
      ["carrier.book", orderNumber],
      ["mail.send", null],
      ["orders.recheck", null],
      ["shipping-run.prepare", null],
    ])
    // the import is Reno's; what checks every order again, and what sends all that waits, is everybody's
    expect(await of(2)).toEqual([
      ["intake.take", null],
      ["mail.send", null],
      ["orders.recheck", null],
    ])
    const [mine] = await failedJobs(context)
    await retryJob(
      as(context, { warehouseId: 2 }),
      mine?.kind === "orders.recheck" || mine?.kind === "mail.send" ? -1 : (mine?.id ?? -1),
    )
    expect(await db("job").where({ state: "waiting", trouble: "no luck" })).toHaveLength(0)
    await db("job").where({ trouble: "no luck" }).delete()
  })

  it("has words for every kind there is", () => {
    expect(handlers.length).toBeGreaterThan(15)
    expect(new Set(handlers.map((one) => one.name)).size).toBe(handlers.length)
    expect(handlers.filter((one) => wordFor("job", one.name) === one.name)).toEqual([])
  })

  it("is one whose payload an earlier release kept in another shape, at once and in words", async () => {
    await enqueue(rig.db, { kind: "outbox.send", onceKey: "old:1", payload: { mail: 7 } })
    expect(await workOnce(rig.db, undefined, named("outbox.send"))).toBe(true)
    const row = there(await rig.db("job").where({ once_key: "old:1" }).first("state", "tries", "trouble"))
    expect([row.state, row.tries]).toEqual(["dead", 1])
    expect(sayTrouble(row.trouble)).toBe(
      "kept by an earlier release in another shape (outboxId); it can't be done. Do it again by hand",
    )
  })
})

describe("jobs that come back by themselves", () => {
  it("are queued once for each span of time, however many workers ask", async () => {
    const now = 1_900_000_000_000
    const count = async () => Number((await rig.db("job").where({ kind: "day.keep" }).count({ n: "id" }))[0]?.n)
    const before = await count()
    await Promise.all([queueDue(rig.db, now), queueDue(rig.db, now)])
    // two warehouses
    expect((await count()) - before).toBe(2)
    await queueDue(rig.db, now + 19_999)
    expect((await count()) - before).toBe(2)
    await queueDue(rig.db, now + 20_000)
    expect((await count()) - before).toBe(4)
  })
})

describe("what is done", () => {
  it("is kept for as long as its kind says", async () => {
    const { db } = rig
    const done = async (kind: string, days: number) => {
      const onceKey = randomUUID()
      await enqueue(db, { kind, onceKey, payload: {} })
      await db("job")
        .where({ once_key: onceKey })
        .update({ state: "done", done_at: new Date(Date.now() - days * 86_400_000) })
      return onceKey
    }
    // ten minutes for what keeps the day, a day for what deals stock out, for good for what books
    const gone = [await done("day.keep", 0.01), await done("stock.deal", 1.01)]
    const kept = [await done("day.keep", 0.006), await done("stock.deal", 0.99), await done("carrier.book", 4_000)]
    await clearUp(db, handlers)
    expect(await db("job").whereIn("once_key", gone).pluck("once_key")).toEqual([])
    expect((await db("job").whereIn("once_key", kept).pluck("once_key")).toSorted()).toEqual(kept.toSorted())
  })
})
