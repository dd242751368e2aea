import { documentBytes } from "server/documents/index.ts"
import { workContext } from "server/http/context.ts"
import { withRights } from "../shell/work.ts"
import type { Route } from "./+types/document"

/** The bytes of a kept document of the own warehouse. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const document = await withRights(() => documentBytes(context.get(workContext), Number(params.id) || 0))
  if (!document) throw new Response("", { status: 404 })
  return new Response(new Uint8Array(document.bytes), {
    headers: {
      "content-type": document.media,
      "content-disposition": `inline; filename="${document.name}.pdf"`,
      "cache-control": "private, max-age=3600",
    },
  })
}
