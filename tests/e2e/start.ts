import { spawn } from "node:child_process"
import { existsSync, mkdtempSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import config from "./playwright.config.ts"

/**
 * Starts the demo itself, as a newcomer does, in a throw-away folder, once for every worker: files run side by side, each
 * in a house of its own. The tests find theirs by the environment (`hands.ts`).
 */
export default async function start() {
  const houses = await Promise.all(
    Array.from({ length: Number(config.workers) }, (_, lane) => startHouse(lane, 4900 + lane * 40)),
  )
  return async () => {
    await Promise.all(houses.map((end) => end()))
  }
}

async function startHouse(lane: number, port: number): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-e2e-"))
  const demo = spawn(
    process.execPath,
    ["scripts/demo.mjs", "--fresh", "--volatile", "--data", join(folder, "demo"), "--port", String(port)],
    { stdio: ["ignore", "pipe", "inherit"] },
  )
  let output = ""
  const ended = new Promise<void>((resolve) => demo.once("exit", () => resolve()))
  await new Promise<void>((resolve, reject) => {
    demo.stdout.on("data", (part) => {
      output += part
      if (output.includes("Ctrl+C stops everything")) resolve()
    })
    demo.once("exit", (code) => reject(new Error(`the demo ended with ${code}:\n${output}`)))
  })
  const found = {
    URL: /Varnok\s+(http\S+)/.exec(output)?.[1]?.replace(/\/$/, ""),
    FOLDER: join(folder, "demo"),
    PRINTER: /trays\s+(http\S+)/.exec(output)?.[1]?.replace(/\/$/, ""),
    CARRIERS: /carriers\s+(http\S+)\/LARK/.exec(output)?.[1],
    MAILBOX: /mailbox\s+(http\S+?)\/ /.exec(output)?.[1],
    SCALE: /bench scale\s+(http\S+?)\/ /.exec(output)?.[1],
  }
  for (const [name, value] of Object.entries(found)) process.env[`VARNOK_${name}_${lane}`] = value
  return async () => {
    demo.kill("SIGTERM")
    await ended
    rmSync(folder, { recursive: true, force: true })
  }
}
