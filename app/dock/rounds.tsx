import { Link } from "react-router"
import { rounds } from "server/dock/round.ts"
import { workContext } from "server/http/context.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { Table } from "../parts/Table.tsx"
import { Screen } from "../shell/Screen.tsx"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/rounds"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return { rounds: await rounds(work.db, work.warehouse.id) }
}

export const meta: Route.MetaFunction = () => [{ title: `${say("round.title")} · ${say("app.name")}` }]

export default function Rounds({ loaderData }: Route.ComponentProps) {
  useLive(null)
  return (
    <Screen
      ribbon={{}}
      name="rounds"
      sill={{
        plate: { verb: say("form.to-dock"), detail: "", ready: true, to: "/dock" },
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("round.title")}</h1>
      </div>
      {loaderData.rounds.length === 0 ? (
        <p className="nothing">{say("round.none")}</p>
      ) : (
        <Table
          caption={say("round.title")}
          rows={loaderData.rounds}
          rowKey={(one) => one.collectionId}
          sorts={false}
          columns={[
            {
              name: "day",
              head: say("round.day"),
              heads: true,
              cell: (one) => <Link to={`/dock/rounds/${one.collectionId}`}>{shortDay(one.onDate)}</Link>,
            },
            { name: "door", head: say("round.door"), cell: (one) => one.door },
            { name: "stops", head: say("round.stops"), className: "figure", cell: (one) => one.stops },
            {
              name: "state",
              head: say("round.state"),
              cell: (one) => (
                <span className={one.notDelivered > 0 ? "ember" : undefined}>
                  {say("round.counts", { delivered: one.delivered, open: one.planned, behind: one.notDelivered })}
                </span>
              ),
            },
          ]}
        />
      )}
    </Screen>
  )
}
