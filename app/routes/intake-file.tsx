import { data, Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { intakePreview, takeIn } from "server/orders/intake.ts"
import { say } from "../messages/index.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { done, followScan } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/intake-file"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const preview = await intakePreview(work, Number(params.id) || 0)
  if (!preview) throw data(null, { status: 404 })
  return preview
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const form = await request.formData()
  if (form.get("intent") !== "take-in") return followScan(work, String(form.get("text") ?? "").slice(0, 120))
  return withRights(async () => {
    await takeIn(work, Number(params.id) || 0)
    const preview = await intakePreview(work, Number(params.id) || 0)
    return done(say("intake-file.plate-done-detail", { n: taken(preview?.orders ?? []) }))
  })
}

const taken = (orders: readonly { fate: string }[]) =>
  orders.filter((order) => order.fate === "new" || order.fate === "changed").length

export const meta: Route.MetaFunction = () => [{ title: `${say("intake.title")} · ${say("app.name")}` }]

export default function IntakeFile({ loaderData: preview, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const isTaken = preview.takenAt !== null
  const count = taken(preview.orders)
  const plate: Plate = isTaken
    ? {
        verb: say("intake-file.plate-done"),
        detail: say("intake-file.plate-done-detail", { n: count }),
        ready: true,
        to: "/",
      }
    : count === 0
      ? { verb: say("intake-file.plate-none"), detail: say("intake.not-taken"), ready: false }
      : {
          verb: say(count === 1 ? "intake-file.plate-one" : "intake-file.plate", { n: count }),
          detail: say("intake-file.plate-detail"),
          ready: true,
          send: { intent: "take-in" },
        }
  return (
    <Screen
      ribbon={{}}
      name="intake-file"
      sill={{ plate, said: actionData?.said, words: [[say("words.order"), say("words.order.does")]] }}
    >
      <div className="place-head">
        <h1>{preview.name}</h1>
        <p>
          {say("intake-file.summary", {
            orders: preview.orders.length,
            rows: preview.rowCount,
            refused: new Set(preview.refusals.map((one) => one.values.line)).size,
          })}
        </p>
      </div>
      <div className="two">
        <section>
          <table className="rows">
            <thead>
              <tr>
                <th scope="col">{say("intake-file.order")}</th>
                <th scope="col">{say("intake-file.customer")}</th>
                <th scope="col">{say("intake-file.place")}</th>
                <th scope="col" className="figure">
                  {say("intake-file.lines")}
                </th>
                <th scope="col">{say("intake-file.fate")}</th>
              </tr>
            </thead>
            <tbody>
              {preview.orders.map((order) => (
                <tr key={order.number} className={order.fate === "unchanged" ? "pale" : undefined}>
                  <th scope="row" className="code">
                    {order.bench ? <Link to={`/orders/${order.bench}`}>{order.number}</Link> : order.number}
                  </th>
                  <td>{order.customer}</td>
                  <td>{order.place}</td>
                  <td className="figure">{order.goodRows}</td>
                  <td className={order.refusedRows > 0 || order.fate === "nothing-good" ? "ember" : undefined}>
                    {say(
                      isTaken && (order.fate === "new" || order.fate === "changed")
                        ? `fate.${order.fate}.done`
                        : `fate.${order.fate}`,
                      { bench: order.bench ?? "" },
                    )}
                    {order.refusedRows > 0 && order.goodRows > 0
                      ? `, ${say("fate.with-refused", { n: order.refusedRows })}`
                      : ""}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section>
          <h2>{say("intake-file.refusals")}</h2>
          {preview.refusals.length === 0 ? (
            <p>{say("intake-file.no-refusals")}</p>
          ) : (
            <table className="rows">
              <thead>
                <tr>
                  <th scope="col" className="figure">
                    {say("intake-file.line")}
                  </th>
                  <th scope="col">{say("intake-file.field")}</th>
                  <th scope="col">{say("intake-file.reason")}</th>
                </tr>
              </thead>
              <tbody>
                {preview.refusals.slice(0, 300).map((one, index) => (
                  <tr key={index}>
                    <td className="figure">{one.values.line}</td>
                    <td className="code">{one.values.field}</td>
                    <td>
                      {one.values.value ? `“${one.values.value}” ` : ""}
                      {say(one.code, one.values)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </section>
      </div>
    </Screen>
  )
}
