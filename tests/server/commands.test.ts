import { mkdtempSync, rmSync } from "node:fs"
import { type AddressInfo, createServer } from "node:net"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { businessNow, noteClock, resumeClock, setBusinessNow } from "server/clock/index.ts"
import { connect } from "server/db/connection.ts"
import { migrate } from "server/db/migrate.ts"
import { afterAll, describe, expect, it } from "vitest"
import { startDatabase } from "../../scripts/database.mjs"
import { start, startStandins } from "../../scripts/stack.mjs"
import { fault, ledger } from "./rig.ts"

const larkspur = ({ addresses }: { addresses: { carriers: string } }) => `${addresses.carriers}/LARK`
const folder = mkdtempSync(join(tmpdir(), "varnok-commands-"))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe("the private database", () => {
  it("takes the next port when one is taken, stops cleanly, and keeps its data for the next start", async () => {
    // a port that the system has free: any fixed one may be the near end of somebody's connection just now
    const squatter = createServer()
    await new Promise<void>((resolve) => squatter.listen(0, "127.0.0.1", resolve))
    const first = (squatter.address() as AddressInfo).port
    const one = await startDatabase(join(folder, "database"), { firstPort: first })
    expect(one.port).toBeGreaterThan(first)
    let db = connect(one.url)
    expect(await migrate(db)).toContain("0001-people-and-places")
    await db("order_source").insert({ code: "kept", name: "Kept" })
    await db.destroy()
    await one.stop()
    await expect(connect(one.url).raw("SELECT 1")).rejects.toThrow()
    squatter.close()

    const two = await startDatabase(join(folder, "database"), { firstPort: first })
    db = connect(two.url)
    expect(await migrate(db)).toEqual([])
    expect(await db("order_source").pluck("code")).toContain("kept")
    await db.destroy()
    await two.stop()
  }, 90_000)
})

describe("the business clock", () => {
  it("is set, moves with real time, and goes on from where it was noted", async () => {
    const database = await startDatabase(join(folder, "clock"), { firstPort: 35_300, volatile: true })
    const db = connect(database.url)
    await migrate(db)
    const tuesday = new Date("2026-11-24T16:42:00Z")
    await setBusinessNow(db, tuesday)
    const passed = (await businessNow(db)).getTime() - tuesday.getTime()
    expect(passed).toBeGreaterThanOrEqual(0)
    expect(passed).toBeLessThan(60_000)
    await noteClock(db)
    // as if a night had passed with everything off: the offset is what it was, real time is not
    await db("business_clock").update({ offset_ms: db.raw("offset_ms + 43200000") })
    await resumeClock(db)
    expect(Math.abs((await businessNow(db)).getTime() - tuesday.getTime())).toBeLessThan(60_000)
    await db.destroy()
    await database.stop()
  }, 90_000)
})

describe("the stand-ins", () => {
  it("keep their ledgers and trays over a restart, and take a report once", async () => {
    const body = {
      account: "x",
      service: "LKG",
      shipDate: "2026-11-24",
      sender: { postalCode: "55802", country: "US" },
      reference: "48999",
      receiver: { postalCode: "80205", state: "CO", country: "US", lines: ["1 Any Street"], residential: false },
      packages: [{ number: 1, sscc: "095212340000480013", weightLb: "9.5", sizeIn: ["10", "10", "8"] }],
    }
    const key = "0b9c7a52-5a0e-4a64-9a55-1f4a9f7f3d10"
    const put = (address: string) =>
      fetch(`${address}/v1/bookings/${key}`, { method: "PUT", body: JSON.stringify(body) })
    const report = (address: string) =>
      fetch(`${address}/reports`, { method: "POST", headers: { "idempotency-key": key }, body: "{}" })
    const one = await startStandins(folder, 36_000)
    expect((await put(larkspur(one))).status).toBe(201)
    expect((await put(larkspur(one))).status).toBe(200)
    expect([
      (await report(one.addresses.orderSource)).status,
      (await report(one.addresses.orderSource)).status,
    ]).toEqual([201, 200])
    const before = await ledger(larkspur(one))
    await Promise.all(one.programs.map((program) => program.stop()))

    const two = await startStandins(folder, 36_100)
    expect(await ledger(larkspur(two))).toEqual(before)
    expect(before).toHaveLength(1)
    const told = (await (await fetch(`${two.addresses.orderSource}/reports`)).json()) as { times: number }[]
    expect(told.map((one) => one.times)).toEqual([2])
    await fetch(`${larkspur(two)}/v1/bookings/${key}`, { method: "DELETE" })
    expect((await put(larkspur(two))).status).toBe(410)
    await fault(larkspur(two), "refuse", 1)
    const other = (
      await fetch(`${larkspur(two)}/v1/bookings/11111111-5a0e-4a64-9a55-1f4a9f7f3d10`, {
        method: "PUT",
        body: JSON.stringify(body),
      })
    ).status
    expect(other).toBe(422)
    await Promise.all(two.programs.map((program) => program.stop()))
  }, 90_000)

  it("say what is missing when they are started wrongly", async () => {
    const program = start("wrong", process.execPath, ["--import", "tsx", "standins/carrier/main.ts"], {
      logs: folder,
      ready: /listening/,
    })
    await expect(program.started).rejects.toThrow(/--carriers is needed/)
  }, 60_000)
})
