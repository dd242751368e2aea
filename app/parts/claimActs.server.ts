import { claimKinds } from "core/claims/index.ts"
import { redirect } from "react-router"
import { openClaim } from "server/claims/claims.ts"
import { z } from "zod"
import { act, field } from "../shell/acts.server.ts"

/** What pages with packages on their way ask for where one is lost or damaged. */
export const claimActs = {
  claim: act(
    z.object({ unit: field.id, kind: z.enum(claimKinds) }),
    (work, { unit, kind }) => openClaim(work, unit, kind),
    ({ number }) => {
      throw redirect(`/orders/claims/${number}`)
    },
  ),
}
