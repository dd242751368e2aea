import { Button, Input } from "@chakra-ui/react"
import { count, countTasks } from "server/decisions/count.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/counts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  // what is known is not shown: who counts should count
  const tasks = await countTasks(work.db, work.warehouse.id)
  return { tasks: tasks.map(({ onHand: _, ...task }) => task) }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    count: act(
      z.object({ task: field.id, counted: field.count, bin: field.text(16) }),
      (work, { task, counted }) => count(work, task, counted),
      ({ difference, orders }, { bin }) => {
        const words =
          difference === 0
            ? say("count.counted-same")
            : say("count.counted", { bin, difference: difference > 0 ? `+${difference}` : `−${-difference}` })
        return orders.length > 0 ? `${words} ${say("count.orders", { orders: orders.join(", ") })}` : words
      },
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("count.title")} · ${say("app.name")}` }]

export default function Counts({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const { tasks } = loaderData
  return (
    <Screen
      ribbon={{}}
      name="counts"
      sill={{
        plate: {
          verb: say("count.plate"),
          detail: say("runs.counts", { n: tasks.length }),
          ready: true,
          to: "/pick",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <header className="place-head">
        <h1>{say("count.title")}</h1>
      </header>
      {tasks.length === 0 ? (
        <p className="nothing">{say("count.none")}</p>
      ) : (
        <Table
          rows={tasks}
          rowKey={(task) => task.id}
          columns={[
            { name: "bin", head: say("count.head.bin"), className: "code big", heads: true, cell: (task) => task.bin },
            {
              name: "item",
              head: say("count.head.item"),
              cell: (task) => (
                <>
                  {task.description}
                  <br />
                  <span className="code">
                    {task.sku}
                    {task.lot ? `, ${say("pick.lot", { lot: task.lot })}` : ""}
                  </span>
                </>
              ),
            },
            {
              name: "why",
              head: say("count.head.why"),
              cell: (task) => (
                <>
                  {wordFor("count.why", task.why)}
                  {task.order ? `, ${say("count.for", { orderNumber: task.order, who: task.raisedBy })}` : ""}
                </>
              ),
            },
            {
              name: "counted",
              head: say("count.head.counted"),
              cell: (task) => (
                <ActForm intent="count" sends={{ task: task.id, bin: task.bin }} className="count-form">
                  <Input
                    name="counted"
                    inputMode="numeric"
                    required
                    aria-label={say("count.field", { sku: task.sku, bin: task.bin })}
                  />
                  <Button type="submit">{say("count.save")}</Button>
                </ActForm>
              ),
            },
          ]}
        />
      )}
    </Screen>
  )
}
