import { sessionLasts } from "server/accounts/sessions.ts"
import { workContext } from "server/http/context.ts"
import { sessionToken } from "server/http/cookies.ts"
import { liveStream } from "server/live/index.ts"
import { orderNumberOf } from "server/orders/row.ts"
import type { Route } from "./+types/live"

/** Server-sent events for the browser that asks; `?order=` is the id of the order it shows. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const token = (await sessionToken(request)) ?? ""
  const asked = Number(new URL(request.url).searchParams.get("order")) || null
  const own = asked && (await orderNumberOf(work.db, work.warehouse.id, asked)) !== null ? asked : null
  return new Response(
    liveStream(work, own, request.signal, () => sessionLasts(work.db, token)),
    {
      headers: {
        "content-type": "text/event-stream",
        // no-transform keeps the compression from holding events back
        "cache-control": "no-store, no-transform",
        "x-accel-buffering": "no",
      },
    },
  )
}
