import { randomBytes } from "node:crypto"
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs"
import { join, resolve } from "node:path"
import { startDatabase } from "./database.mjs"
import { keepRunning, reachable, startStandins } from "./stack.mjs"

export const say = (text) => process.stdout.write(`${text}\n`)

/** The value after an option of the command line, or what it is without. */
export const option = (name, fallback) => {
  const at = process.argv.indexOf(name)
  return at >= 0 ? process.argv[at + 1] : fallback
}

/** The key that secrets are kept with, made once for a folder and readable by its owner alone. */
function keyOf(folder) {
  const file = join(folder, "key")
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString("base64"), { mode: 0o600 })
  return readFileSync(file, "utf8").trim()
}

/**
 * What the application runs in: a folder with its database, the stand-ins, and the environment that names them. Ctrl+C
 * and `stop` end all programs that were added, then the database. Options: --data FOLDER, --fresh to start over,
 * --volatile for tests.
 */
export function openWorld(usualFolder) {
  const folder = resolve(option("--data", usualFolder))
  const logs = join(folder, "logs")
  /** What runs, with how to end it: stand-ins, worker and application first, then the database. */
  const programs = []
  let database
  let stopping = false
  // nobody reads what is said any more: that ends nothing
  for (const stream of [process.stdout, process.stderr]) stream.on("error", () => undefined)
  if (process.argv.includes("--fresh")) rmSync(folder, { recursive: true, force: true })
  mkdirSync(folder, { recursive: true })

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

  /** Starts the database and the stand-ins; what ends by itself is started again. */
  async function start(firstPort) {
    say("starting the database")
    const volatile = process.argv.includes("--volatile")
    const at = join(folder, "database")
    const first = await startDatabase(at, { volatile })
    const asProgram = (one) => ({ ...one, name: "database", started: Promise.resolve() })
    database = keepRunning(asProgram(first), say, async () =>
      asProgram(await startDatabase(at, { volatile, port: first.port })),
    )
    const standins = await startStandins(folder, firstPort, "demo/files/shop-orders.json", 90)
    for (const program of standins.programs) programs.push(keepRunning(program, say, (dead) => program.restarted(dead)))
    const env = {
      VARNOK_DATABASE: first.url,
      VARNOK_DEMO: "maren,tomas,ilse,ada:cellar-door",
      VARNOK_STANDINS: JSON.stringify(standins.addresses),
      VARNOK_REACHABLE: reachable(standins.addresses),
      VARNOK_DROP: join(folder, "drop"),
      VARNOK_OUT: join(folder, "out"),
      VARNOK_KEY: keyOf(folder),
      VARNOK_BOUNCE_PORT: String(standins.returns),
    }
    return { env, addresses: standins.addresses }
  }

  /** Where everything is, and who may sign in. */
  function tell(port, addresses, command) {
    say("")
    say(`  Varnok           http://127.0.0.1:${port}/`)
    say(`  printer's trays  ${addresses.printer}/`)
    say(`  carriers         ${addresses.carriers}/LARK (MERI BORE CIVI SWIF IRON SLED SIER HEAR PINE HALC VANS)`)
    say(`  outside wareh.   ${addresses.outsideWarehouse}/v1/orders (ships after a minute and a half)`)
    say(`  bench scale      ${addresses.scale}/ (put something on it, then weigh)`)
    const mail = new URL(addresses.mail)
    say(`  text messages    ${addresses.text}/ (every short message that was sent)`)
    say(`  mailbox          http://${mail.hostname}:${mail.searchParams.get("mailbox")}/ (every message that was sent)`)
    say("  order files      demo/files/orders-noon.csv, demo/files/orders-buyer.edi")
    say(`  drop folder      ${join(folder, "drop", "dealers")} (try demo/files/orders-dealers.csv)`)
    say("")
    say("  Sign in as maren (clerk), tomas (lead), ilse (sales desk) or ada (administrator), password cellar-door.")
    say(`  Ctrl+C stops everything; the data stay. \`${command} -- --fresh\` starts over.`)
  }

  return { folder, logs, programs, start, stop, tell }
}
