import { data } from "react-router"
import { photoOf } from "server/claims/list.ts"
import { workContext } from "server/http/context.ts"
import { picture } from "../shell/picture.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/claim-photo"

/** A photo that goes with a claim. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const found = await photoOf(work.db, work.warehouse.id, Number(params.number) || 0, Number(params.photo) || 0)
  if (!found) throw data(null, { status: 404 })
  return picture(found)
}
