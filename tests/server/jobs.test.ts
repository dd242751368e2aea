import { compute } from "server/compute/pool.ts"
import { failedJobs, retryJob } from "server/jobs/failed.ts"
import { askAnew, claim, enqueue, fail, finish, leaseMs, renew } from "server/jobs/queue.ts"
import { workOnce } from "server/worker/index.ts"
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest"
import { sayTrouble } from "words/reasons.ts"
import { there } from "../../server/db/there.ts"
import { as, openRig, type Rig } from "./rig.ts"

// a lease short enough to be seen renewed
vi.hoisted(() => {
  process.env.VARNOK_LEASE_MS = "4500"
  // modules read it once; files before this one and after it have their own
  vi.resetModules()
})

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
  await rig.db("job").delete()
})
afterAll(async () => {
  await rig.drop()
  delete process.env.VARNOK_LEASE_MS
  vi.resetModules()
})

const job = async (key: string) => there(await rig.db("job").where({ once_key: key }).first())
/** As if the time of the lease had passed. */
const passes = (key: string) =>
  rig
    .db("job")
    .where({ once_key: key })
    .update({ leased_until: new Date(0), run_at: new Date(0) })
const taken = async (kind = "test") => {
  const one = await claim(rig.db, [kind])
  if (!one) throw new Error("not taken")
  return one
}

describe("a lease", () => {
  it("is held while work goes on", async () => {
    await enqueue(rig.db, { kind: "test.long", onceKey: "long:1", payload: {} })
    let end = () => {}
    const working = new Promise<void>((resolve) => {
      end = resolve
    })
    const done = workOnce(rig.db, undefined, [{ name: "test.long", run: () => working }])
    await expect.poll(async () => (await job("long:1")).lease).not.toBeNull()
    const heldUntil = async () => there((await job("long:1")).leased_until).getTime()
    const first = await heldUntil()
    await expect.poll(heldUntil, { timeout: 20_000 }).toBeGreaterThan(first + leaseMs / 6)
    end()
    expect(await done).toBe(true)
    expect((await job("long:1")).state).toBe("done")
  })
  it("that was lost is not done: what holds it now is what counts", async () => {
    await enqueue(rig.db, { kind: "test", onceKey: "lost:1", payload: {} })
    const first = await taken()
    expect(await renew(rig.db, first)).toBe(true)
    await passes("lost:1")
    const second = await taken()
    expect(await finish(rig.db, first)).toBe(false)
    expect(await renew(rig.db, first)).toBe(false)
    expect((await job("lost:1")).state).toBe("waiting")
    await fail(rig.db, first, "too late to say")
    expect((await job("lost:1")).trouble).toBeNull()
    expect(await finish(rig.db, second)).toBe(true)
    expect((await job("lost:1")).state).toBe("done")
  })
})

describe("work that takes its worker with it", () => {
  it("is tried longer where it asks somebody outside: what waits for that answer would wait for good", async () => {
    await enqueue(rig.db, { kind: "test.outside", onceKey: "outside:1", payload: {} })
    const does = [{ name: "test.outside", needs: "outside", run: () => Promise.resolve() }] as const
    await rig.db("job").where({ once_key: "outside:1" }).update({ losses: 6 })
    await passes("outside:1")
    expect(await workOnce(rig.db, undefined, does)).toBe(true)
    expect(await job("outside:1")).toMatchObject({ state: "done", losses: 7 })
    await enqueue(rig.db, { kind: "test.outside", onceKey: "outside:2", payload: {} })
    await rig.db("job").where({ once_key: "outside:2" }).update({ losses: 7 })
    await passes("outside:2")
    expect(await workOnce(rig.db, undefined, does)).toBe(false)
    expect((await job("outside:2")).state).toBe("dead")
  })

  it("is set aside the second time, shown to those whose it is, and begins again when they say so", async () => {
    const { context, db } = rig
    await enqueue(db, { kind: "test", onceKey: "killer:1", payload: {}, warehouseId: context.actor.warehouseId })
    await enqueue(db, { kind: "test", onceKey: "after:1", payload: {} })
    await db("job")
      .where({ once_key: "killer:1" })
      .update({ run_at: new Date(0) })
    expect((await taken()).tries).toBe(1)
    await passes("killer:1")
    expect((await taken()).tries).toBe(2)
    await passes("killer:1")
    // not a third time: what comes after it goes on
    expect((await taken()).payload).toEqual({})
    const dead = await job("killer:1")
    expect([dead.state, dead.losses]).toEqual(["dead", 2])
    const shown = (await failedJobs(context)).find((one) => one.id === dead.id)
    expect(shown).toMatchObject({ state: "dead" })
    expect(sayTrouble(shown?.trouble)).toMatch(/^set aside: .* 2 times$/)
    const reno = as(context, { warehouseId: 2 })
    expect((await failedJobs(reno)).find((one) => one.id === dead.id)).toBeUndefined()
    await retryJob(reno, dead.id)
    expect((await job("killer:1")).state).toBe("dead")
    await retryJob(context, dead.id)
    expect(await job("killer:1")).toMatchObject({ state: "waiting", losses: 0, tries: 1 })
  })
  it("while work that only fails is tried on, however often", async () => {
    await enqueue(rig.db, { kind: "test.fails", onceKey: "fails:1", payload: {} })
    for (let n = 1; n <= 4; n += 1) {
      const one = await taken("test.fails")
      await fail(rig.db, one, "no luck")
      await rig
        .db("job")
        .where({ once_key: "fails:1" })
        .update({ run_at: new Date(0) })
    }
    expect(await job("fails:1")).toMatchObject({ state: "waiting", losses: 0, tries: 4, trouble: "no luck" })
  })
})

describe("a job that somebody asks for anew", () => {
  it.each(["waits", "is being tried"])(
    "is tried at once and then with short delays, though it had long ones and %s",
    async (now) => {
      const key = `anew:${now}`
      await enqueue(rig.db, { kind: "test.anew", onceKey: key, payload: {} })
      // after nine tries the delay is 30 s, the longest
      await rig.db("job").where({ once_key: key }).update({ tries: 8 })
      const held = await taken("test.anew")
      if (now === "waits") await fail(rig.db, held, "no luck")
      await askAnew(rig.db, key)
      if (now === "waits") await fail(rig.db, await taken("test.anew"), "no luck")
      else await fail(rig.db, held, "no luck")
      const waits = (await job(key)).run_at.getTime() - Date.now()
      expect(waits).toBeLessThanOrEqual(1_000)
      expect((await job(key)).state).toBe("waiting")
    },
  )
})

it("a computation ends when it is told to", async () => {
  const load = (key: string) => ({
    key,
    sku: key,
    kind: "general" as const,
    hazard: null,
    length: 100,
    width: 90,
    height: 80,
    weight: 1,
    upright: false,
    loadLimit: 3,
    ownCarton: false,
    quantity: 300,
  })
  const outer = { length: 1200, width: 1000, height: 900 }
  const box = { code: "B", ...outer, outer, maxLoad: 900, stock: null, tare: 0, cost: 0, carrier: null }
  const stop = AbortSignal.timeout(400)
  await expect(
    compute("suggest", { loads: [load("a"), load("b"), load("c"), load("d")], boxes: [box] }, stop),
  ).rejects.toThrow(/abort/i)
})
