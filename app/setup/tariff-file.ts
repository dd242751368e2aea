import { tariffTables, tariffText } from "core/tariff/index.ts"
import { stringify } from "csv-stringify/sync"
import { workContext } from "server/http/context.ts"
import { versionOf } from "server/rating/versions.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tariff-file"

/** A version's document as JSON, or one of its tables as CSV; both can be imported again. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "tariffs.manage")
  const version = await versionOf(work.db, params.code, Number(params.number))
  const answer = (text: string, type: string) =>
    new Response(text, {
      headers: {
        "content-type": `${type}; charset=utf-8`,
        "content-disposition": `attachment; filename="${params.code}-${params.number}-${params.file}"`,
        "cache-control": "no-store",
      },
    })
  if (version && params.file === "tariff.json") return answer(tariffText(version.tariff), "application/json")
  const table = version ? tariffTables(version.tariff).find((one) => `${one.name}.csv` === params.file) : undefined
  if (!table) throw new Response("", { status: 404 })
  return answer(stringify([table.header, ...table.rows] as string[][]), "text/csv")
}
