import { hsProposals } from "server/decisions/customs.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/hs-codes"

/** Codes that may fit a line, for words or the first figures of a code. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const { searchParams } = new URL(request.url)
  return hsProposals(work, Number(searchParams.get("line")) || 0, searchParams.get("words") ?? "")
}
