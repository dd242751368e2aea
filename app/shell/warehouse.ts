import { redirect } from "react-router"
import { switchWarehouse } from "server/accounts/sessions.ts"
import { workContext } from "server/http/context.ts"
import { sessionToken } from "server/http/cookies.ts"
import type { Route } from "./+types/warehouse"
import { withRights } from "./work.ts"

/** Goes on in another warehouse: its day, doors, stock and time. */
export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  return withRights(async () => {
    await switchWarehouse(work.db, (await sessionToken(request)) ?? "", work.actor, Number(form.get("warehouse")))
    throw redirect("/")
  })
}

export const loader = () => redirect("/")
