import { spawn } from "node:child_process"
import { createWriteStream, mkdirSync } from "node:fs"
import { join } from "node:path"
import { freePort } from "./ports.mjs"

/** A started program: `started` gives the text by which it was known to be ready, `stop` asks it to end and waits; `kill` ends it at once. */
export function start(name, command, args, { env = {}, logs, ready } = {}) {
  mkdirSync(logs, { recursive: true })
  const log = createWriteStream(join(logs, `${name}.log`), { flags: "a" })
  const child = spawn(command, args, { env: { ...process.env, ...env }, stdio: ["ignore", "pipe", "pipe"] })
  child.stdout.pipe(log)
  child.stderr.pipe(log)
  let tail = ""
  const ended = new Promise((resolve) => child.once("exit", (code) => resolve(code)))
  const started = new Promise((resolve, reject) => {
    if (!ready) return resolve()
    const look = (part) => {
      tail = (tail + part).slice(-4000)
      const told = ready.exec(tail)
      if (told) resolve(told[0])
    }
    child.stdout.on("data", look)
    child.stderr.on("data", look)
    child.once("exit", (code) => reject(new Error(`${name} ended with ${code}:\n${tail}`)))
  })
  return {
    name,
    pid: child.pid,
    started,
    ended,
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

/** Runs a program to its end; rejects when it fails. */
export async function run(name, command, args, options) {
  const program = start(name, command, args, options)
  const code = await program.ended
  if (code !== 0) throw new Error(`${name} ended with ${code}; see ${join(options.logs, `${name}.log`)}`)
}

const tsx = ["--import", "tsx"]
const codes = "LARK,MERI,BORE,CIVI,SWIF,IRON,SLED,SIER,HEAR,PINE,HALC,VANS"

/**
 * Starts the simulated outside world with its state in a folder; the addresses are what the application is told. From
 * port 0 on each takes a free one of the system's choice.
 */
export async function startStandins(folder, firstPort, taken = new Set(), orders = "", shipAfter = 0) {
  const logs = join(folder, "logs")
  const programs = []
  const one = async (name, file, ...args) => {
    const port = firstPort === 0 ? 0 : await freePort(firstPort, taken)
    const program = start(name, process.execPath, [...tsx, file, ...args, "--port", String(port)], {
      logs,
      ready: /listening [\d ]+/,
    })
    programs.push(program)
    const told = await program.started
    const [, at, mailbox] = told.trim().split(" ")
    // a mail server has its mailbox on a port of its own
    return mailbox ? `smtp://127.0.0.1:${at}/?mailbox=${mailbox}` : `http://127.0.0.1:${at}`
  }
  const state = (file) => join(folder, "standins", file)
  const tariffs = ["--tariffs", "demo/tariffs"]
  const addressFile = "demo/files/addresses.json"
  const [carriers, printer, orderSource, addressService, outsideWarehouse, scale, mail] = await Promise.all([
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
    one("mail", "standins/mail/main.ts", "--state", state("mail")),
  ])
  return { addresses: { carriers, printer, orderSource, addressService, outsideWarehouse, scale, mail }, programs }
}
