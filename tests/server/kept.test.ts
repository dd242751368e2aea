import { announce } from "server/audit/index.ts"
import { changeState, onceForEachChange } from "server/live/kept.ts"
import { afterAll, beforeAll, expect, it } from "vitest"
import { openRig, type Rig } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

/** Something that counts how often it was worked out. */
function counted() {
  let n = 0
  const ask = (more: { changes?: string } = {}) =>
    onceForEachChange({ db: rig.db, ...more }, 1, "counted", async () => {
      n += 1
      return n
    })
  return { ask, worked: () => n }
}

it("is worked out once for all who ask until something changes in the warehouse", async () => {
  const { ask } = counted()
  const first = await Promise.all([ask(), ask(), ask()])
  expect(new Set([...first, await ask()])).toEqual(new Set([1]))
  await announce(rig.db, { warehouseId: 2 })
  expect(await ask()).toBe(1)
  await announce(rig.db, { warehouseId: 1 })
  expect([await ask(), await ask()]).toEqual([2, 2])
})

it("sees a change whose transaction commits after one that began later", async () => {
  const before = await changeState(rig.db, 1)
  const slow = await rig.db.transaction()
  await announce(slow, { warehouseId: 1 })
  await announce(rig.db, { warehouseId: 1 })
  const between = await changeState(rig.db, 1)
  await slow.commit()
  const after = await changeState(rig.db, 1)
  expect(new Set([before, between, after]).size).toBe(3)
})

it("is told to every warehouse when what is set up for all of them changes", async () => {
  const before = await Promise.all([1, 2].map((one) => changeState(rig.db, one)))
  await announce(rig.db, {})
  const after = await Promise.all([1, 2].map((one) => changeState(rig.db, one)))
  expect(after.map((one, at) => one !== before[at])).toEqual([true, true])
})

it("that fails is worked out again by who asks next", async () => {
  const broken = () => onceForEachChange({ db: rig.db }, 1, "broken", () => Promise.reject(new Error("away")))
  await expect(broken()).rejects.toThrow("away")
  expect(await onceForEachChange({ db: rig.db }, 1, "broken", async () => "here")).toBe("here")
})
