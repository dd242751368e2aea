import { workContext } from "server/http/context.ts"
import type { Route } from "./+types/scan"
import { followScan, resolveScan } from "./scan.server.ts"

/** What a text would mean, for the scan line to show before Enter. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const text = new URL(request.url).searchParams.get("text") ?? ""
  const { fits, words } = await resolveScan(context.get(workContext), text.slice(0, 120))
  return { fits, words }
}

export async function action({ request, context }: Route.ActionArgs) {
  const form = await request.formData()
  return followScan(context.get(workContext), String(form.get("text") ?? "").slice(0, 120))
}
