import { ownPaperBytes } from "server/documents/ownPapers.ts"
import { workContext } from "server/http/context.ts"
import { withRights } from "../shell/work.ts"
import type { Route } from "./+types/own-paper"

/** The bytes of a paper that goes with shipments, as we print it. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const paper = await withRights(() => ownPaperBytes(context.get(workContext), Number(params.id) || 0))
  if (!paper) throw new Response("", { status: 404 })
  return new Response(new Uint8Array(paper.bytes), {
    headers: {
      "content-type": "application/pdf",
      "content-disposition": `inline; filename="${paper.name}.pdf"`,
      "cache-control": "private, max-age=3600",
    },
  })
}
