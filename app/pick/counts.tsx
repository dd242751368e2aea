import { Button, Input } from "@chakra-ui/react"
import { Form } from "react-router"
import { count, countTasks } from "server/decisions/count.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/counts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  // what is known is not shown: who counts should count
  const tasks = await countTasks(work.db, work.warehouse.id)
  return { tasks: tasks.map(({ onHand: _, ...task }) => task) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  if (form.get("intent") !== "count") return followScan(work, String(form.get("text") ?? "").slice(0, 120))
  return withRights(async () => {
    const typed = String(form.get("counted") ?? "").trim()
    const outcome = await count(
      work,
      Number(form.get("task")) || 0,
      /^\d{1,7}$/.test(typed) ? Number(typed) : Number.NaN,
    )
    if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
    const { difference, orders } = outcome.value
    const words =
      difference === 0
        ? say("count.counted-same")
        : say("count.counted", {
            bin: String(form.get("bin") ?? ""),
            difference: difference > 0 ? `+${difference}` : `−${-difference}`,
          })
    return done(orders.length > 0 ? `${words} ${say("count.orders", { orders: orders.join(", ") })}` : words)
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
        <table className="rows">
          <thead>
            <tr>
              {(["bin", "item", "why", "counted"] as const).map((name) => (
                <th key={name} scope="col">
                  {say(`count.head.${name}`)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {tasks.map((task) => (
              <tr key={task.id}>
                <th scope="row" className="code big">
                  {task.bin}
                </th>
                <td>
                  {task.description}
                  <br />
                  <span className="code">
                    {task.sku}
                    {task.lot ? `, ${say("pick.lot", { lot: task.lot })}` : ""}
                  </span>
                </td>
                <td>
                  {wordFor("count.why", task.why)}
                  {task.order ? `, ${say("count.for", { orderNumber: task.order, who: task.raisedBy })}` : ""}
                </td>
                <td>
                  <Form method="post" className="count-form">
                    <input type="hidden" name="intent" value="count" />
                    <input type="hidden" name="task" value={task.id} />
                    <input type="hidden" name="bin" value={task.bin} />
                    <Input
                      name="counted"
                      inputMode="numeric"
                      required
                      aria-label={say("count.field", { sku: task.sku, bin: task.bin })}
                    />
                    <Button type="submit">{say("count.save")}</Button>
                  </Form>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Screen>
  )
}
