import { data } from "react-router"
import { workContext } from "server/http/context.ts"
import { takeTracking, trackingFile } from "server/outside/trackingFile.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tracking-file"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const found = await trackingFile(work.db, work.warehouse.id, Number(params.id) || 0)
  if (!found) throw data(null, { status: 404 })
  return found
}

export async function action({ params, request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    take: act(
      nothing,
      (work) => takeTracking(work, Number(params.id) || 0),
      ({ n }) => say("tracking.taking", { n }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("tracking.title")} · ${say("app.name")}` }]

export default function TrackingFile({ loaderData: { file, refused }, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const plate: Plate =
    file.state === "preview"
      ? {
          verb: say("tracking.take", { n: file.good }),
          detail: file.refused > 0 ? say("tracking.left-out", { n: file.refused }) : "",
          ready: file.good > 0,
          send: { intent: "take" },
        }
      : { verb: say("tracking.back"), detail: "", ready: true, to: "/orders/tracking" }
  return (
    <Screen
      ribbon={{}}
      name="tracking"
      sill={{ plate, answer: actionData?.answer, words: [[say("words.order"), say("words.order.does")]] }}
    >
      <div className="place-head">
        <h1>{file.name}</h1>
        <p>{say(`tracking.state.${file.state}`, { good: file.good, taken: file.taken, refused: file.refused })}</p>
        {file.refused > 0 ? (
          <a href={`/orders/tracking/${file.id}/refused.csv`}>{say("tracking.refused-file")}</a>
        ) : null}
      </div>
      {refused.length > 0 ? (
        <Table
          caption={say("tracking.refused")}
          rows={refused}
          rowKey={(one) => one.line}
          sorts={false}
          columns={[
            { name: "line", head: say("tracking.line"), heads: true, cell: (one) => one.line },
            { name: "order", head: say("tracking.order"), cell: (one) => one.orderNumber },
            { name: "tracking", head: say("elsewhere.tracking-field"), cell: (one) => one.text.tracking.slice(0, 60) },
            { name: "why", head: say("tracking.why"), cell: (one) => sayReasons(one.why) },
          ]}
        />
      ) : (
        <p className="nothing">{say("tracking.all-good")}</p>
      )}
    </Screen>
  )
}
