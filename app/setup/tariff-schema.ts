import { tariffJsonSchema } from "core/tariff/index.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tariff-schema"

/** The published schema of tariff documents. */
export function loader({ context }: Route.LoaderArgs) {
  allow(context.get(workContext), "tariffs.manage")
  return new Response(`${JSON.stringify(tariffJsonSchema(), null, 1)}\n`, {
    headers: { "content-type": "application/schema+json; charset=utf-8" },
  })
}
