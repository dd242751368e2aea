import { spawn } from "node:child_process"
import { createWriteStream, mkdirSync } from "node:fs"
import { createServer } from "node:net"
import { join } from "node:path"

/**
 * A started program: `started` gives the text by which it was known to be ready, `stop` asks it to end and waits; `kill`
 * ends it at once; `again` starts it once more, with other arguments or environment where some are given. A log that
 * can't be written (a full disk) is said once and ends nothing.
 */
export function start(name, command, args, { env = {}, logs, ready } = {}) {
  mkdirSync(logs, { recursive: true, mode: 0o700 })
  const log = createWriteStream(join(logs, `${name}.log`), { flags: "a", mode: 0o600 })
  const child = spawn(command, args, { env: { ...process.env, ...env }, stdio: ["ignore", "pipe", "pipe"] })
  for (const stream of [child.stdout, child.stderr]) stream.pipe(log)
  log.once("error", (error) => {
    process.stderr.write(`the log of ${name} can't be written (${error.code}); it goes on without\n`)
    // whatever it says must still be read, or it would wait for a reader
    for (const stream of [child.stdout, child.stderr]) {
      stream.unpipe(log)
      stream.resume()
    }
  })
  log.on("error", () => undefined)
  let tail = ""
  const ended = new Promise((resolve) => child.once("exit", (code, signal) => resolve(code ?? signal)))
  const started = new Promise((resolve, reject) => {
    if (!ready) return resolve()
    const look = (part) => {
      tail = (tail + part).slice(-4000)
      const found = ready.exec(tail)
      if (found) resolve(found[0])
    }
    child.stdout.on("data", look)
    child.stderr.on("data", look)
    child.once("exit", (code) => reject(new Error(`${name} ended with ${code}:\n${tail}`)))
  })
  started.catch(() => undefined)
  return {
    name,
    pid: child.pid,
    started,
    ended,
    again: (otherArgs = args, otherEnv = env) => start(name, command, otherArgs, { env: otherEnv, logs, ready }),
    kill: () => {
      child.kill("SIGKILL")
      return ended
    },
    stop: () => {
      child.kill("SIGTERM")
      const hard = setTimeout(() => child.kill("SIGKILL"), 8000)
      return ended.finally(() => clearTimeout(hard))
    },
  }
}

/** Waits before a dead program is started again: longer each time, and short again when it ran for a minute. */
const waits = { first: 1_000, longest: 30_000, settled: 60_000 }

/**
 * Keeps a program running: when it ends by itself it is started again after a while, and `say` tells of it. Answers how
 * to end it for good.
 *
 * @param program from `start`
 * @param again how it is started again; the same as it was where nothing is given
 */
export function keepRunning(program, say, again = (one) => one.again()) {
  let current = program
  let stopping = false
  let wait = waits.first
  const watch = async (since) => {
    const code = await current.ended
    if (stopping) return
    if (Date.now() - since > waits.settled) wait = waits.first
    say(`${program.name} ended with ${code}; it is started again in ${wait / 1000} s`)
    await new Promise((done) => setTimeout(done, wait))
    wait = Math.min(2 * wait, waits.longest)
    if (stopping) return
    try {
      current = await again(current)
      current.started.then(
        () => say(`${program.name} runs again`),
        () => undefined,
      )
    } catch (error) {
      say(`${program.name} could not be started: ${error.message.split("\n")[0]}`)
    }
    void watch(Date.now())
  }
  void watch(Date.now())
  return {
    name: program.name,
    stop: () => {
      stopping = true
      return current.stop()
    },
  }
}

/** Runs a program to its end; rejects when it fails. */
export async function run(name, command, args, options) {
  const program = start(name, command, args, options)
  const code = await program.ended
  if (code !== 0) throw new Error(`${name} ended with ${code}; see ${join(options.logs, `${name}.log`)}`)
}

/** How a stand-in is started: from its source, or from where a test built it. */
const source = (file) => {
  const built = process.env.VARNOK_STANDINS_BUILT
  return built ? [join(built, file.replace(/\.ts$/, ".mjs"))] : ["--import", "tsx", file]
}
const codes = "LARK,MERI,BORE,CIVI,SWIF,IRON,SLED,SIER,HEAR,PINE,HALC,VANS"

/** A port that is free just now. */
const freePort = () =>
  new Promise((resolve, reject) => {
    const server = createServer()
    server.once("error", reject)
    server.listen(0, "127.0.0.1", () => {
      const { port } = server.address()
      server.close(() => resolve(port))
    })
  })

/**
 * Starts the simulated outside world with its state in a folder; the addresses are what the application is told. From
 * port 0 on each takes a free one of the system's choice; else the first one from `firstPort` on that it can bind. Each
 * program has `restarted`, which starts it again on the ports that it had.
 */
export async function startStandins(folder, firstPort, orders = "", shipAfter = 0) {
  const logs = join(folder, "logs")
  const programs = []
  let place = 0
  const one = async (name, file, ...args) => {
    const first = firstPort === 0 ? 0 : firstPort + place
    place += 1
    const portArgs = (at, mailbox) => ["--port", String(at), ...(mailbox ? ["--mailbox", String(mailbox)] : [])]
    const program = start(name, process.execPath, [...source(file), ...args, ...portArgs(first)], {
      logs,
      ready: /listening \d+[ \d]*\n/,
    })
    programs.push(program)
    const [, at, mailbox] = (await program.started).trim().split(" ")
    program.restarted = (dead) => {
      const next = dead.again([...source(file), ...args, ...portArgs(at, mailbox)])
      next.restarted = program.restarted
      return next
    }
    // a mail server has its mailbox on a port of its own
    return mailbox ? `smtp://127.0.0.1:${at}/?mailbox=${mailbox}` : `http://127.0.0.1:${at}`
  }
  const state = (file) => join(folder, "standins", file)
  const tariffs = ["--tariffs", "demo/tariffs"]
  const addressFile = "demo/files/addresses.json"
  const returns = await freePort()
  const [carriers, printer, orderSource, addressService, outsideWarehouse, scale, mail, text] = await Promise.all([
    one("carriers", "standins/carrier/main.ts", "--carriers", codes, ...tariffs, "--state", state("carriers")),
    one("printer", "standins/printer/main.ts", "--state", state("printer")),
    one("order-source", "standins/order-source/main.ts", "--state", state("order-source.json"), "--orders", orders),
    one("address", "standins/address/main.ts", "--state", state("address.json"), "--addresses", addressFile),
    one(
      "outside-warehouse",
      "standins/outside-warehouse/main.ts",
      "--state",
      state("outside-warehouse.json"),
      "--without",
      "YST,CLN",
      "--ship-after",
      String(shipAfter),
    ),
    one("scale", "standins/scale/main.ts", "--state", state("scale.json")),
    one("mail", "standins/mail/main.ts", "--state", state("mail"), "--returns", String(returns)),
    one("text-message", "standins/text-message/main.ts", "--state", state("text-message.json")),
  ])
  return {
    addresses: { carriers, printer, orderSource, addressService, outsideWarehouse, scale, mail, text },
    returns,
    programs,
  }
}

/** What the application may reach within the machine: the stand-ins, each at its port and no other. */
export const reachable = (addresses) =>
  Object.values(addresses)
    .map((address) => `127.0.0.1:${new URL(address).port}`)
    .join(",")
