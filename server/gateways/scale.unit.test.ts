import { mkdtempSync, rmSync } from "node:fs"
import { createServer } from "node:net"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { massIn } from "core/units/index.ts"
import { afterAll, beforeAll, describe, expect, it } from "vitest"
import { type Program, start } from "../../scripts/stack.mjs"
import { readLine, weighOnce } from "./scale.ts"

const folder = mkdtempSync(join(tmpdir(), "varnok-scale-"))
let program: Program
let port = 0
beforeAll(async () => {
  program = start(
    "scale",
    process.execPath,
    ["--import", "tsx", "standins/scale/main.ts", "--state", join(folder, "scale.json"), "--port", "0"],
    { logs: folder, ready: /listening \d+/ },
  )
  port = Number((await program.started)?.split(" ")[1])
})
afterAll(async () => {
  await program.stop()
  rmSync(folder, { recursive: true, force: true })
})

const put = (path: string, body: unknown) =>
  fetch(`http://127.0.0.1:${port}${path}`, { method: "PUT", body: JSON.stringify(body) })
const weighed = async () => {
  const outcome = await weighOnce("127.0.0.1", port, { tries: 2, pauseMs: 5, timeLimitMs: 400 })
  return outcome.ok
    ? `${massIn(outcome.value.weight, outcome.value.unit)} ${outcome.value.unit}`
    : outcome.reasons[0]?.code
}

describe("the bench scale", () => {
  it("is read in the unit that it shows, exactly", async () => {
    await put("/load", { weight: "27.3", unit: "lb" })
    expect(await weighed()).toBe("27.3 lb")
    await put("/load", { weight: "12.38", unit: "kg" })
    expect(await weighed()).toBe("12.38 kg")
  })
  it.each([
    ["moving", "scale.moving"],
    ["over", "scale.over"],
    ["under", "scale.under"],
    ["silent", "scale.no-answer"],
    ["nonsense", "scale.no-answer"],
  ])("that is %s gives no weight", async (fault, code) => {
    await put("/faults", { fault })
    expect(await weighed()).toBe(code)
    await put("/faults", { fault: null })
  })
  it("with nothing on it gives no weight", async () => {
    await put("/load", { weight: "0", unit: "lb" })
    expect(await weighed()).toBe("scale.empty")
  })
  it("that takes no call is said to be away", async () => {
    const closed = createServer()
    await new Promise<void>((resolve) => closed.listen(0, "127.0.0.1", resolve))
    const { port: free } = closed.address() as { port: number }
    await new Promise((resolve) => closed.close(resolve))
    const outcome = await weighOnce("127.0.0.1", free)
    expect(outcome.ok ? "" : outcome.reasons[0]?.code).toBe("scale.no-answer")
  })
  it.each([
    ["stable 27.30 lb", { state: "stable", figure: "27.30", unit: "lb" }],
    ["moving 1.2 kg", { state: "moving", figure: "1.2", unit: "kg" }],
    ["over", { state: "over" }],
    ["stable -1.0 lb", null],
    ["stable 1.0 st", null],
    ["27.30", null],
    ["stable 999999 lb", null],
  ])("reads the line %s", (line, reading) => expect(readLine(line)).toEqual(reading))
})
