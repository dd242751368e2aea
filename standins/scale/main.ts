import { createServer as createHttp } from "node:http"
import { createServer, type Socket } from "node:net"
import { answerJson, argument, bodyOf, FileState, listen } from "../process.ts"

/**
 * A bench scale. It speaks lines over TCP: asked `WEIGH`, it answers what it shows, such as `stable 27.30 lb`,
 * `moving 12.10 lb`, `over` or `under`. On the same port a page and PUT /load {weight, unit} put something on it, and
 * PUT /faults {fault} makes it move, overload, fall silent, talk nonsense or shut.
 */
interface State {
  weight: string
  unit: "lb" | "kg"
  fault: "moving" | "over" | "under" | "silent" | "nonsense" | "down" | null
}
const state = new FileState<State>(argument("state"), { weight: "0.00", unit: "lb", fault: null })

function shown(): string {
  const { weight, unit, fault } = state.value
  if (fault === "over" || fault === "under") return fault
  if (fault === "nonsense") return "?#"
  const figure = Number(weight)
  // a scale that has not come to rest shows another figure each time
  if (fault === "moving") return `moving ${(figure + 0.1 + Math.abs(Math.sin(Date.now()))).toFixed(2)} ${unit}`
  return `stable ${figure.toFixed(2)} ${unit}`
}

function talk(socket: Socket): void {
  let heard = ""
  socket.on("data", (part) => {
    heard += part.toString("ascii")
    if (heard.length > 200) return socket.destroy()
    for (let end = heard.indexOf("\n"); end >= 0; end = heard.indexOf("\n")) {
      const line = heard.slice(0, end).trim()
      heard = heard.slice(end + 1)
      if (state.value.fault === "silent") continue
      socket.write(line === "WEIGH" ? `${shown()}\r\n` : "what\r\n")
    }
  })
  socket.on("error", () => socket.destroy())
}

const pages = createHttp((request, response) => {
  const put = async () => {
    const body = JSON.parse((await bodyOf(request, 2_000)).toString()) as Partial<State>
    if (request.url === "/faults") state.value.fault = body.fault ?? null
    else {
      const figure = Number(body.weight)
      if (!Number.isFinite(figure) || figure < 0 || figure > 5_000)
        return answerJson(response, 400, { error: "weight" })
      state.value.weight = figure.toFixed(2)
      state.value.unit = body.unit === "kg" ? "kg" : "lb"
    }
    state.save()
    answerJson(response, 200, state.value)
  }
  if (request.method === "PUT") {
    put().catch((error) => answerJson(response, 400, { error: (error as Error).message }))
    return
  }
  response.writeHead(200, { "content-type": "text/html; charset=utf-8" }).end(`<!doctype html><title>Scale</title>
<body style="font: 20px sans-serif; padding: 2em"><h1 id="shows">${shown()}</h1>
<form onsubmit="fetch('/load',{method:'PUT',body:JSON.stringify({weight:w.value,unit:u.value})}).then(()=>location.reload());return false">
<label>On the scale <input id="w" size="6" value="${state.value.weight}"></label>
<select id="u"><option>lb<option${state.value.unit === "kg" ? " selected" : ""}>kg</select> <button>Put it on</button></form>`)
})

const sockets = new Set<Socket>()
const server = createServer((socket) => {
  if (state.value.fault === "down") return void socket.destroy()
  sockets.add(socket)
  socket.on("close", () => sockets.delete(socket))
  // a browser begins with a method, who weighs with a word of its own
  socket.once("data", (first) => {
    socket.pause()
    socket.unshift(first)
    if (/^(GET|PUT|POST|HEAD) /.test(first.toString("ascii"))) pages.emit("connection", socket)
    else talk(socket)
    socket.resume()
  })
  socket.on("error", () => socket.destroy())
})
void listen(server, Number(argument("port", "0"))).then((at) => process.stdout.write(`listening ${at}\n`))
const stop = () => {
  for (const socket of sockets) socket.destroy()
  server.close(() => process.exit(0))
}
process.on("SIGTERM", stop)
process.on("SIGINT", stop)
