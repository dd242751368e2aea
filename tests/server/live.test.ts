import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { announce } from "server/audit/index.ts"
import { connect } from "server/db/connection.ts"
import { changeAddress } from "server/decisions/address.ts"
import { endLive, liveStream, othersAt } from "server/live/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { putIn } from "server/packing/index.ts"
import { pick, pickStops } from "server/picking/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { sayReasons } from "words/reasons.ts"
import { there } from "../../server/db/there.ts"
import { as, codes, openRig, orderBySource, type Rig, row, takeFile, value } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(async () => {
  endLive()
  await rig.drop()
})

const tomas = async () => {
  const { id } = there(await rig.db("user").where({ username: "tomas" }).first("id"))
  return as(rig.context, { userId: id, name: "Tomas Reyes", role: "lead" })
}

/** What a browser hears, event by event. */
function listen(context: Parameters<typeof liveStream>[0], orderId: OrderId | null) {
  const stop = new AbortController()
  const heard: { event: string; data: unknown }[] = []
  const reader = liveStream(context, orderId, stop.signal).getReader()
  const text = new TextDecoder()
  void (async () => {
    for (;;) {
      const { value: bytes, done } = await reader.read()
      if (done) return
      for (const block of text.decode(bytes).split("\n\n").filter(Boolean)) {
        const [event = "", data = "data: null"] = block.split("\n")
        heard.push({ event: event.slice(7), data: JSON.parse(data.slice(6)) })
      }
    }
  })()
  return { heard, stop: () => stop.abort() }
}
const eventually = (check: () => unknown) => expect.poll(check, { timeout: 20_000, interval: 50 })

describe("live", () => {
  it("tells other processes' browsers what changed in their warehouse, and no other", async () => {
    // a second pool stands for a second process
    const other = connect(rig.url)
    const here = listen({ ...rig.context, db: other }, null)
    const reno = listen(as({ ...rig.context, db: other }, { warehouseId: 2 }), null)
    await eventually(() => here.heard.length).toBeGreaterThan(0)
    await takeFile(rig.context, row({ order_number: "L-1" }))
    const { id } = await orderBySource(rig.db, "L-1")
    expect(await rig.db("change_notice").where({ order_id: id })).not.toEqual([])
    // who begins to listen hears what is told from then on: it is told until somebody listens
    await eventually(async () => {
      await announce(rig.db, { orderId: id })
      return here.heard.some((one) => one.event === "change" && (one.data as { order: number }).order === id)
    }).toBe(true)
    expect(reno.heard.filter((one) => one.event === "change")).toEqual([])
    here.stop()
    reno.stop()
    await other.destroy()
  })

  it("shows who else has an order open, until they leave", async () => {
    const { id } = await orderBySource(rig.db, "L-1")
    const mine = listen(rig.context, id)
    const second = listen(await tomas(), id)
    const names = (of: typeof mine) => of.heard.filter((one) => one.event === "people").at(-1)?.data
    await eventually(() => names(mine)).toEqual(["Tomas Reyes"])
    await eventually(() => names(second)).toEqual(["Maren Holt"])
    second.stop()
    await eventually(() => names(mine)).toEqual([])
    expect(await othersAt(rig.db, id, 0)).toEqual(["Maren Holt"])
    mine.stop()
    await eventually(async () => (await rig.db("presence")).length).toBe(0)
  })
})

describe("two people on one order", () => {
  it("pick and scan it together without doubling", async () => {
    await takeFile(rig.context, row({ order_number: "L-2", quantity: "12" }))
    const { id } = await orderBySource(rig.db, "L-2")
    const [stop] = await pickStops(rig.db, id)
    if (!stop) throw new Error("no stop")
    const second = await tomas()
    // each scans ten times, and every scan arrives twice
    const attempts = [rig.context, second].flatMap((who) =>
      Array.from({ length: 10 }, () => {
        const attempt = {
          scanId: randomUUID(),
          allocationId: stop.allocationId,
          bin: stop.bin,
          item: stop.sku,
          times: 1,
        }
        return [pick(who, id, attempt), pick(who, id, attempt)]
      }).flat(),
    )
    const outcomes = await Promise.all(attempts)
    const [first, again] = [0, 1].map((at) => outcomes.filter((_, index) => index % 2 === at))
    const takenBy = (some: typeof outcomes = []) => some.map((one) => (one.ok ? one.value.taken : 0))
    // the second of each pair is told what the first was
    expect(takenBy(again)).toEqual(takenBy(first))
    expect(takenBy(first).filter((taken) => taken === 1)).toHaveLength(12)
    expect((await pickStops(rig.db, id)).map((one) => one.picked)).toEqual([12])
    const moved = await rig.db("stock_movement").where({ cause: "pick" }).sum({ sum: "quantity" }).first()
    expect(Number(moved?.sum)).toBe(-12)
  })

  it("pack it together without doubling", async () => {
    const { id } = await orderBySource(rig.db, "L-2")
    const { addPackage, openShipment } = await import("server/packing/index.ts")
    value(await openShipment(rig.context, id))
    const shipment = value(await addPackage(rig.context, id, "K12"))
    const lineId = shipment.lines[0]?.id as number
    const second = await tomas()
    const outcomes = await Promise.all(
      [rig.context, second].flatMap((who) =>
        Array.from({ length: 8 }, () =>
          putIn(who, id, { package: 1, lineId, quantity: 1, scanned: true, scanId: randomUUID() }),
        ),
      ),
    )
    expect(outcomes.filter((one) => one.ok)).toHaveLength(12)
    expect(outcomes.flatMap(codes)).toEqual(Array(4).fill("pack.too-many"))
    expect((await shipmentOf(rig.db, id))?.lines[0]?.packed).toBe(12)
  })

  it("see the packages as they are at the version they see, however many change it", async () => {
    const { id } = await orderBySource(rig.db, "L-2")
    const { closePackages, reopenPackages } = await import("server/packing/index.ts")
    const seen: string[] = []
    let changing = true
    const look = async () => {
      while (changing) {
        const shipment = await shipmentOf(rig.db, id)
        seen.push(`${shipment?.version} ${shipment?.packages[0]?.state}`)
      }
    }
    const reading = [look(), look(), look()]
    const truth = new Set([`${(await shipmentOf(rig.db, id))?.version} open`])
    for (let turn = 0; turn < 25; turn += 1)
      for (const [change, state] of [
        [closePackages, "closed"],
        [reopenPackages, "open"],
      ] as const)
        truth.add(`${value(await change(rig.context, id)).version} ${state}`)
    changing = false
    await Promise.all(reading)
    expect(seen.length).toBeGreaterThan(25)
    expect(seen.filter((one) => !truth.has(one))).toEqual([])
  })

  it("are told what the other changed when they edit on old ground", async () => {
    await takeFile(rig.context, row({ order_number: "L-3" }))
    const order = await orderBySource(rig.db, "L-3")
    const form = {
      version: order.version,
      company: order.company,
      attention: "",
      street: order.street,
      street2: "",
      city: order.city,
      state: order.state,
      postal_code: order.postal_code,
      country: "US",
      phone: "",
      address_kind: "business" as const,
      incoterm: "",
      incoterm_place: "",
    }
    value(await changeAddress(await tomas(), order.id, { ...form, street: "16 Growler Row", attention: "Cellar" }))
    const answer = await changeAddress(rig.context, order.id, { ...form, city: "Aurora" })
    expect(answer.ok ? null : answer.reasons).toEqual([
      {
        code: "order.changed-by",
        values: { actor: "Tomas Reyes", fields: '[["attention","Cellar"],["street","16 Growler Row"]]' },
      },
    ])
    expect(answer.ok ? "" : sayReasons(answer.reasons)).toBe(
      "Tomas Reyes changed this: Attention “Cellar”, Street and number “16 Growler Row”. " +
        "What you typed is kept. Check it, then save again.",
    )
    expect((await orderBySource(rig.db, "L-3")).city).toBe("Denver")
  })
})
