import type { MiddlewareFunction } from "react-router"
import { redirect } from "react-router"
import { actorOf, noteSeen, seenLongAgo } from "server/accounts/sessions.ts"
import { may, NotAllowed, type Right } from "server/actors/index.ts"
import { businessNow } from "server/clock/index.ts"
import { type DayView, dayView } from "server/day/index.ts"
import type { Work } from "server/http/context.ts"
import { frameContext, workContext } from "server/http/context.ts"
import { benchOf, sessionToken } from "server/http/cookies.ts"
import { changeState, onceForEachChange } from "server/live/kept.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { readAs } from "./reader.server.ts"

/** Lets only signed-in people through, and gives every loader and action who works where and when. */
export const requireActor: MiddlewareFunction<Response> = async ({ request, context }, next) => {
  const { db } = context.get(frameContext)
  const token = await sessionToken(request)
  const actor = token ? await actorOf(db, token) : null
  if (!actor) {
    const url = new URL(request.url)
    // which routes the page's own request read is nothing to come back to
    url.searchParams.delete("_routes")
    throw redirect(`/sign-in?to=${encodeURIComponent(url.pathname.replace(/\.data$/, "") + url.search)}`)
  }
  const reads = request.method === "GET" || request.method === "HEAD"
  const [now, changes] = await Promise.all([
    businessNow(db),
    reads ? changeState(db, actor.warehouseId) : undefined,
    token && showsPerson(request) && seenLongAgo(actor) ? noteSeen(db, token) : null,
  ])
  const warehouse = await onceForEachChange({ db, changes }, actor.warehouseId, "warehouse", () =>
    warehouseById(db, actor.warehouseId),
  )
  const benchId = await benchOf(request)
  context.set(workContext, { db, actor, now, warehouse, changes, benchId, places: actor.places })
  try {
    return await readAs(actor.reader, next)
  } catch (error) {
    if (error instanceof NotAllowed) throw new Response("", { status: 403, statusText: "Forbidden" })
    throw error
  }
}

/**
 * Whether a request comes of something that a person did. Pages read themselves again when others change something, and
 * browsers open a stream again that a proxy cut.
 */
function showsPerson(request: Request): boolean {
  const path = new URL(request.url).pathname
  return request.method !== "GET" || !(path.endsWith(".data") || path === "/live")
}

const days = new WeakMap<Work, Promise<DayView>>()

/** The day, computed once for a request however many loaders ask. */
export function dayOf(work: Work): Promise<DayView> {
  const known = days.get(work) ?? dayView(work, work.warehouse)
  days.set(work, known)
  return known
}

/** For a loader of a page that not everybody may see: a right that is missing becomes a 403 page. */
export function allow(work: Work, right: Right): void {
  if (!may(work.actor, right)) throw new Response("", { status: 403, statusText: "Forbidden" })
}

/** Runs a loader's or action's body; a right that is missing becomes a 403 page. */
export async function withRights<T>(body: () => Promise<T>): Promise<T> {
  try {
    return await body()
  } catch (error) {
    if (error instanceof NotAllowed) throw new Response("", { status: 403, statusText: "Forbidden" })
    throw error
  }
}
