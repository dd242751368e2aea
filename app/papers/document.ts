import { documentBytes } from "server/documents/index.ts"
import { workContext } from "server/http/context.ts"
import { withRights } from "../shell/work.ts"
import type { Route } from "./+types/document"

/** The bytes of a kept document of the own warehouse. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const document = await withRights(() => documentBytes(context.get(workContext), Number(params.id) || 0))
  if (!document) throw new Response("", { status: 404 })
  const ending = endings[document.media] ?? "pdf"
  return new Response(new Uint8Array(document.bytes), {
    headers: {
      "content-type": document.media,
      "content-disposition": `${ending === "pdf" ? "inline" : "attachment"}; filename="${document.name}.${ending}"`,
      "cache-control": "private, max-age=3600",
    },
  })
}

const endings: Readonly<Record<string, string>> = { "application/xml": "xml", "application/edifact": "edi" }
