import { workContext } from "server/http/context.ts"
import type { Route } from "./+types/scan"
import { answerTo } from "./acts.server.ts"
import { resolveScan } from "./scan.server.ts"

/** What a text would mean, for the scan line to show before Enter. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const text = new URL(request.url).searchParams.get("text") ?? ""
  const { fits, words } = await resolveScan(context.get(workContext), text.slice(0, 120))
  return { fits, words }
}

export const action = ({ request, context }: Route.ActionArgs) => answerTo(request, context.get(workContext), {})
