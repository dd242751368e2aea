import { Button, Input } from "@chakra-ui/react"
import { Form, Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { findOrders } from "server/orders/list.ts"
import { say, sayReasons } from "../messages/index.ts"
import { shortDay } from "../shell/format.ts"
import { Screen } from "../shell/Screen.tsx"
import { followScan } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import type { Route } from "./+types/orders"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const url = new URL(request.url)
  const find = (url.searchParams.get("find") ?? "").slice(0, 100)
  const before = Number(url.searchParams.get("before")) || null
  const page = await findOrders(work, work.warehouse, find, before)
  return {
    find,
    next: page.next,
    orders: page.orders.map((order) => ({
      bench: order.bench,
      customer: order.customer,
      place: order.place,
      po: order.poNumber,
      source: order.sourceNumber,
      promised: order.promisedOn,
      lines: order.lines,
      stage: order.stage,
      stops: order.stops,
    })),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const form = await request.formData()
  return followScan(context.get(workContext), String(form.get("text") ?? "").slice(0, 120))
}

export const meta: Route.MetaFunction = () => [{ title: `${say("orders.title")} · ${say("app.name")}` }]

export default function Orders({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { orders, find, next } = loaderData
  const { actor } = useShell()
  useLive(null)
  return (
    <Screen
      ribbon={{}}
      name="orders"
      sill={{
        plate: actor.bench
          ? { verb: say("orders.plate"), detail: say("orders.plate-detail"), ready: true, to: "/orders/intake" }
          : { verb: say("plate.nothing"), detail: say("orders.find-label"), ready: false },
        said: actionData?.said,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("orders.title")}</h1>
        <Form method="get" className="find" role="search">
          <label htmlFor="find">{say("orders.find-label")}</label>
          <Input id="find" name="find" defaultValue={find} key={find} maxLength={100} />
          <Button type="submit">{say("orders.find")}</Button>
        </Form>
      </div>
      {orders.length === 0 ? (
        <p className="nothing">{find ? say("orders.none") : say("orders.empty")}</p>
      ) : (
        <table className="rows">
          <caption className="sr-only">{say("orders.table")}</caption>
          <thead>
            <tr>
              {["order", "customer", "place", "po", "source", "promised", "lines", "stage"].map((name) => (
                <th key={name} scope="col" className={name === "lines" ? "figure" : undefined}>
                  {say(`orders.head.${name}`)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {orders.map((order) => (
              <tr key={order.bench}>
                <th scope="row">
                  <Link to={`/orders/${order.bench}`}>{order.bench}</Link>
                </th>
                <td>{order.customer}</td>
                <td>{order.place}</td>
                <td>{order.po}</td>
                <td className="code">{order.source}</td>
                <td>{order.promised ? shortDay(order.promised) : "–"}</td>
                <td className="figure">{order.lines}</td>
                <td className={order.stops.length > 0 ? "ember" : undefined}>
                  {order.stops.length > 0
                    ? say("orders.stopped", { why: sayReasons(order.stops) })
                    : say(`stage.${order.stage}`)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {next ? (
        <p className="pager">
          <Link to={`?find=${encodeURIComponent(find)}&before=${next}`}>{say("orders.next")}</Link>
        </p>
      ) : null}
    </Screen>
  )
}
