import { spawn } from "node:child_process"
import { existsSync, mkdtempSync, rmSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"

/** Starts the demo itself, as a newcomer does, in a throw-away folder; the tests find it by the environment. */
export default async function start() {
  const folder = mkdtempSync(join(existsSync("/dev/shm") ? "/dev/shm" : tmpdir(), "varnok-e2e-"))
  const demo = spawn(
    process.execPath,
    ["scripts/demo.mjs", "--fresh", "--volatile", "--data", join(folder, "demo"), "--port", "4900"],
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
  process.env.VARNOK_URL = /Varnok\s+(http\S+)/.exec(output)?.[1]?.replace(/\/$/, "")
  process.env.VARNOK_FOLDER = join(folder, "demo")
  process.env.VARNOK_PRINTER = /trays\s+(http\S+)/.exec(output)?.[1]?.replace(/\/$/, "")
  process.env.VARNOK_CARRIERS = /carriers\s+(http\S+)\/LARK/.exec(output)?.[1]
  process.env.VARNOK_SCALE = /bench scale\s+(http\S+?)\/ /.exec(output)?.[1]
  return async () => {
    demo.kill("SIGTERM")
    await ended
    rmSync(folder, { recursive: true, force: true })
  }
}
