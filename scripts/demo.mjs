import { existsSync, readdirSync, statSync } from "node:fs"
import { join } from "node:path"
import { keepRunning, run, start } from "./stack.mjs"
import { openWorld, option, say } from "./world.mjs"

/**
 * The whole demo: database, stand-ins, worker and application, until Ctrl+C. A usual port that is taken moves on to the
 * next one; a program that ends by itself is started again, and that is said. --port N is for tests and for a second
 * demo beside the first.
 */
const world = openWorld(".data/demo")
const { logs, programs } = world

try {
  if (buildIsOld()) {
    say("building the application (half a minute)")
    await run("build", process.execPath, ["node_modules/@react-router/dev/bin.js", "build"], { logs })
  }
  const { env: own, addresses } = await world.start(4810)
  const env = { ...own, NODE_ENV: "production" }
  await run("migrate", process.execPath, ["build/server/migrate.js"], { logs, env })
  say("loading the demo's data")
  await run("load", process.execPath, ["build/server/demo.js"], {
    logs,
    env: { ...env, VARNOK_PUBLIC_URL: `http://127.0.0.1:${option("--port", "4800")}` },
  })
  const app = start("app", process.execPath, ["build/server/index.js"], {
    logs,
    env: { ...env, PORT: option("--port", "4800"), VARNOK_PORT_TRIES: "200" },
    ready: /"port":\d+,"msg":"listening"/,
  })
  const port = /\d+/.exec(await app.started)[0]
  // messages to customers link to where the application is
  const worker = start("worker", process.execPath, ["build/server/worker.js"], {
    logs,
    env: { ...env, VARNOK_PUBLIC_URL: `http://127.0.0.1:${port}` },
    ready: /listening for jobs/,
  })
  programs.push(keepRunning(worker, say))
  // the address that was printed stays: a program that is started again takes its own port or waits for it
  programs.push(keepRunning(app, say, (dead) => dead.again(undefined, { ...env, PORT: port, VARNOK_PORT_TRIES: "1" })))
  world.tell(port, addresses, "npm run demo")
} catch (error) {
  process.stderr.write(`${error.message}\n`)
  await world.stop(1)
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
