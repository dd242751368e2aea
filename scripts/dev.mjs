import { watch } from "node:fs"
import { keepRunning, run, start } from "./stack.mjs"
import { openWorld, option, say } from "./world.mjs"

/**
 * The demo's data with the sources as they are saved: screens change in the browser by themselves, the server
 * reads with the next request what it is made of, and the worker is started again.
 */
const world = openWorld(".data/dev")
const { logs, programs } = world
const source = ["--import", "tsx"]

try {
  const { env, addresses } = await world.start(4840)
  const port = option("--port", "4830")
  const own = { ...env, NODE_ENV: "development", VARNOK_PUBLIC_URL: `http://127.0.0.1:${port}` }
  await run("migrate", process.execPath, [...source, "server/db/migrate.main.ts"], { logs, env: own })
  say("loading the demo's data")
  await run("load", process.execPath, [...source, "demo/load.main.ts"], { logs, env: own })
  const worker = restarting("worker", [...source, "server/worker/main.ts"], /listening for jobs/, own)
  const app = start("app", process.execPath, ["scripts/dev-server.mjs"], {
    logs,
    env: { ...own, PORT: port },
    ready: /listening on \d+/,
  })
  programs.push(worker, keepRunning(app, say))
  await app.started
  world.tell(port, addresses, "npm run dev")
  say("  Saved screens show at once; what the server is made of is read again with the next request.")

  // what the worker is made of
  const changed = soon(() => {
    const began = Date.now()
    worker.restart().then(
      () => say(`the worker was started again in ${((Date.now() - began) / 1000).toFixed(1)} s`),
      (error) => say(error.message),
    )
  })
  for (const folder of ["core", "words", "server"])
    watch(folder, { recursive: true }, (_, name) => {
      if (name && /\.tsx?$/.test(name) && !/\.test\.ts$/.test(name)) changed()
    })
} catch (error) {
  process.stderr.write(`${error.message}\n`)
  await world.stop(1)
}

/** A program that can be started anew; what it says goes to its log, what breaks it is said. */
function restarting(name, args, ready, env) {
  let current = start(name, process.execPath, args, { logs, env, ready })
  const fail = (error) => say(`${name} does not run: ${error.message.split("\n").slice(0, 12).join("\n")}`)
  current.started.catch(fail)
  return {
    stop: () => current.stop(),
    restart: async () => {
      await current.kill()
      current = current.again()
      await current.started
    },
  }
}

/** Does it once for changes that come together, as a saved branch brings them. */
function soon(work) {
  let timer = null
  return () => {
    clearTimeout(timer)
    timer = setTimeout(work, 80)
  }
}
