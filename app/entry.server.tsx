import { PassThrough } from "node:stream"
import createCache from "@emotion/cache"
import { CacheProvider } from "@emotion/react"
import { createReadableStreamFromReadable } from "@react-router/node"
import { isbot } from "isbot"
import { renderToPipeableStream } from "react-dom/server"
import { type EntryContext, type RouterContextProvider, ServerRouter } from "react-router"
import { NotAllowed } from "server/actors/index.ts"
import { frameContext } from "server/http/context.ts"

const giveUpAfterMs = 6_000

/** What a loader, an action or a page threw: noted with the request's id, for the log and for the answer's status. */
export function handleError(error: unknown, { request, context }: { request: Request; context: unknown }): void {
  if (request.signal.aborted || error instanceof NotAllowed) return
  ;(context as RouterContextProvider).get(frameContext).note(error)
}

/** Renders a page with its own style cache, so that styles of one request carry that request's nonce. */
export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  routerContext: EntryContext,
  context: RouterContextProvider,
): Promise<Response> {
  const { nonce } = context.get(frameContext)
  const cache = createCache({ key: "vk", nonce })
  return new Promise((resolve, reject) => {
    let code = status
    let answered = false
    const whole = isbot(request.headers.get("user-agent") ?? "") || routerContext.isSpaMode
    const answer = () => {
      answered = true
      const body = new PassThrough()
      headers.set("Content-Type", "text/html; charset=utf-8")
      resolve(new Response(createReadableStreamFromReadable(body), { headers, status: code }))
      pipe(body)
    }
    const { pipe, abort } = renderToPipeableStream(
      <CacheProvider value={cache}>
        <ServerRouter context={routerContext} url={request.url} nonce={nonce} />
      </CacheProvider>,
      {
        nonce,
        [whole ? "onAllReady" : "onShellReady"]: answer,
        onShellError: reject,
        onError(error: unknown) {
          code = 500
          if (answered) context.get(frameContext).note(error)
        },
      },
    )
    setTimeout(abort, giveUpAfterMs + 1_000)
  })
}
