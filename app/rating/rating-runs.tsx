import { Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { runs } from "server/ratingRuns/runs.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/rating-runs"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return { runs: await runs(work.db, work.warehouse.id) }
}

export const action = ({ request, context }: Route.ActionArgs) => answerTo(request, context.get(workContext), {})

export const meta: Route.MetaFunction = () => [{ title: `${say("run.list")} · ${say("app.name")}` }]

export default function RatingRuns({ loaderData, actionData }: Route.ComponentProps) {
  const { zone } = useShell()
  const [latest] = loaderData.runs
  return (
    <Screen
      ribbon={{}}
      name="rating-runs"
      sill={{
        plate: latest
          ? {
              verb: `${say("run.title")} ${latest.id}`,
              detail: say(`run.rule.${latest.rule}`),
              ready: true,
              to: `/orders/rating/${latest.id}`,
            }
          : { verb: say("place.orders"), detail: say("run.list-none"), ready: true, to: "/orders" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("run.list")}</h1>
        <Link to="/orders">{say("place.orders")}</Link>
      </div>
      {loaderData.runs.length === 0 ? <p className="note">{say("run.list-none")}</p> : null}
      <ul className="run-list">
        {loaderData.runs.map((run) => (
          <li key={run.id}>
            <Link to={`/orders/rating/${run.id}`}>{run.id}</Link> {say(`run.rule.${run.rule}`)},{" "}
            {say(`run.state.${run.state}`)}, {run.madeBy}, {dayAndClock(run.madeAt, zone)}
          </li>
        ))}
      </ul>
    </Screen>
  )
}
