import { lookUpItems } from "server/goods/lookUp.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/look-up-items"

/** Items for a field that completes what is typed. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.see")
  return lookUpItems(work, (new URL(request.url).searchParams.get("find") ?? "").slice(0, 80))
}
