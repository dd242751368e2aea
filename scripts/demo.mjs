import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from "node:fs"
import { join, resolve } from "node:path"
import { startDatabase } from "./database.mjs"
import { keepRunning, reachable, run, start, startStandins } from "./stack.mjs"

/**
 * The whole demo: database, stand-ins, worker and application, until Ctrl+C. A usual port that is taken moves on to the
 * next one; a program that ends by itself is started again, and that is said.
 */
const fresh = process.argv.includes("--fresh")
const option = (name, fallback) => {
  const at = process.argv.indexOf(name)
  return at >= 0 ? process.argv[at + 1] : fallback
}
// --data FOLDER, --port N and --volatile are for tests and for a second demo beside the first
const folder = resolve(option("--data", ".data/demo"))
const logs = join(folder, "logs")
const say = (text) => process.stdout.write(`${text}\n`)
// nobody reads what is said any more: that ends nothing
for (const stream of [process.stdout, process.stderr]) stream.on("error", () => undefined)

if (fresh) rmSync(folder, { recursive: true, force: true })
mkdirSync(folder, { recursive: true })

/** What runs, with how to end it: stand-ins, worker and application first, then the database. */
const programs = []
let database
let stopping = false
async function stop(code) {
  if (stopping) return
  stopping = true
  say("stopping")
  await Promise.all(programs.map((program) => program.stop()))
  await database?.stop()
  process.exit(code)
}
process.on("SIGINT", () => stop(0))
process.on("SIGTERM", () => stop(0))

try {
  if (buildIsOld()) {
    say("building the application (half a minute)")
    await run("build", process.execPath, ["node_modules/@react-router/dev/bin.js", "build"], { logs })
  }
  say("starting the database")
  const volatile = process.argv.includes("--volatile")
  const at = join(folder, "database")
  const first = await startDatabase(at, { volatile })
  const asProgram = (one) => ({ ...one, name: "database", started: Promise.resolve() })
  database = keepRunning(asProgram(first), say, async () =>
    asProgram(await startDatabase(at, { volatile, port: first.port })),
  )
  const standins = await startStandins(folder, 4810, "demo/files/shop-orders.json", 90)
  for (const program of standins.programs) programs.push(keepRunning(program, say, (dead) => program.restarted(dead)))
  const env = {
    VARNOK_DATABASE: first.url,
    VARNOK_DEMO: "maren,tomas,ilse,ada:cellar-door",
    VARNOK_STANDINS: JSON.stringify(standins.addresses),
    VARNOK_REACHABLE: reachable(standins.addresses),
    VARNOK_DROP: join(folder, "drop"),
    NODE_ENV: "production",
  }
  await run("migrate", process.execPath, ["build/server/migrate.js"], { logs, env })
  say("loading the demo's data")
  await run("load", process.execPath, ["build/server/demo.js"], { logs, env })
  const worker = start("worker", process.execPath, ["build/server/worker.js"], {
    logs,
    env,
    ready: /listening for jobs/,
  })
  const app = start("app", process.execPath, ["build/server/index.js"], {
    logs,
    env: { ...env, PORT: option("--port", "4800"), VARNOK_PORT_TRIES: "200" },
    ready: /"port":\d+,"msg":"listening"/,
  })
  programs.push(keepRunning(worker, say))
  const port = /\d+/.exec(await app.started)[0]
  // the address that was printed stays: a program that is started again takes its own port or waits for it
  programs.push(keepRunning(app, say, (dead) => dead.again(undefined, { ...env, PORT: port, VARNOK_PORT_TRIES: "1" })))
  say("")
  say(`  Varnok           http://127.0.0.1:${port}/`)
  say(`  printer's trays  ${standins.addresses.printer}/`)
  say(`  carriers         ${standins.addresses.carriers}/LARK (MERI BORE CIVI SWIF IRON SLED SIER HEAR PINE HALC VANS)`)
  say(`  outside wareh.   ${standins.addresses.outsideWarehouse}/v1/orders (ships after a minute and a half)`)
  say(`  bench scale      ${standins.addresses.scale}/ (put something on it, then weigh)`)
  say("  order files      demo/files/orders-noon.csv, demo/files/orders-buyer.edi")
  say(`  drop folder      ${join(folder, "drop", "dealers")} (try demo/files/orders-dealers.csv)`)
  say("")
  say("  Sign in as maren (clerk), tomas (lead), ilse (sales desk) or ada (administrator), password cellar-door.")
  say("  Ctrl+C stops everything; the data stay. `npm run demo -- --fresh` starts over.")
} catch (error) {
  process.stderr.write(`${error.message}\n`)
  await stop(1)
}

/** Whether a source file is newer than the build. */
function buildIsOld() {
  const built = "build/server/index.js"
  if (!existsSync(built) || !existsSync("build/server/demo.js")) return true
  const since = statSync(built).mtimeMs
  const newer = (path) => {
    const at = statSync(path)
    if (!at.isDirectory()) return at.mtimeMs > since
    return readdirSync(path).some((name) => newer(join(path, name)))
  }
  return ["app", "core", "server", "demo", "package-lock.json", "vite.config.ts"].some(newer)
}
