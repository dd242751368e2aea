import { messageFile } from "server/edi/list.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/message-file"

/** A message to a customer's system as it was sent, or will be. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const file = await messageFile(work.db, work.warehouse.id, Number(params.id) || 0)
  if (!file) throw new Response("", { status: 404 })
  return new Response(new Uint8Array(file.bytes), {
    headers: {
      "content-type": file.media,
      "content-disposition": `attachment; filename="${file.name}"`,
      "cache-control": "no-store",
    },
  })
}
