import { Button } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { type Cheaper, cheaperOrders } from "server/advice/cheaper.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { adviceActs } from "../parts/adviceActs.server.ts"
import { adviceInWords, takingOf } from "../parts/adviceWords.ts"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/cheaper"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const run = Number(new URL(request.url).searchParams.get("run")) || null
  const { taken, ...found } = await cheaperOrders(work, run)
  return {
    ...found,
    taken: taken.map(({ taken: { words }, ...order }) => ({ ...order, words: words.replace(/:$/, "") })),
    run,
    mayWork: may(work.actor, "orders.work"),
    currency: work.warehouse.currency,
    key: crypto.randomUUID(),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(request, work, adviceActs(work, null))
}

export const meta: Route.MetaFunction = () => [{ title: `${say("cheaper.page")} · ${say("app.name")}` }]

type Loaded = Awaited<ReturnType<typeof loader>>

export default function CheaperPage({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const first = at.mayWork ? (at.found.find((one) => takingFrom(one, at.key) !== null) ?? null) : null
  const taking = first && takingFrom(first, at.key)
  return (
    <Screen
      ribbon={{}}
      name="cheaper"
      sill={{
        plate:
          first && taking
            ? {
                verb: say("cheaper.plate"),
                detail: say("cheaper.plate-detail", {
                  order: first.orderNumber,
                  amount: showMoney({ amount: first.advice.saves, currency: at.currency }),
                }),
                ready: true,
                send: taking,
              }
            : { verb: say("plate.nothing"), detail: say("cheaper.none"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("cheaper.page")}</h1>
        {at.run ? (
          <Link to={`/orders/runs/${at.run}`}>{say("cheaper.of-run", { id: at.run })}</Link>
        ) : (
          <Link to="/orders">{say("orders.title")}</Link>
        )}
      </div>
      <div className="scrolls joining-list">
        <p className="note">
          {say("cheaper.note")} {at.looked < at.all ? say("cheaper.looked", { n: at.looked, all: at.all }) : ""}
        </p>
        {at.taken.length > 0 ? (
          <section className="advice-list" aria-label={say("cheaper.done-title")}>
            {at.taken.map((one) => (
              <div key={one.orderId} className="otherwise">
                <span>
                  <Link to={`/orders/${one.orderNumber}`}>{one.orderNumber}</Link>{" "}
                  {say("cheaper.taken", { what: one.words })}
                </span>
                {at.mayWork ? (
                  <Act intent="advice-back" sends={{ order: one.orderId, key: `${at.key} ${one.orderId} back` }}>
                    <Button type="submit" variant="ghost">
                      {say("cheaper.back")}
                    </Button>
                  </Act>
                ) : null}
              </div>
            ))}
          </section>
        ) : null}
        {at.found.length === 0 ? (
          <p>{say("cheaper.none")}</p>
        ) : (
          <Table
            caption={say("cheaper.page")}
            rows={at.found}
            rowKey={(one) => `${one.orderId} ${JSON.stringify(one.advice)}`}
            columns={columnsOf(at)}
          />
        )}
      </div>
    </Screen>
  )
}

/** What takes an advice from here: what must be packed first is not to be had yet. */
function takingFrom(one: Cheaper, key: string): Record<string, string> | null {
  const standing = one.advice.kind === "pallet" || one.advice.kind === "loose"
  if (standing && !one.packed) return null
  const taking = takingOf(one.advice, `${key} ${one.orderId} ${one.advice.kind}`)
  return taking && { ...taking, order: String(one.orderId) }
}

const columnsOf = ({ currency, key, mayWork }: Loaded): readonly TableColumn<Cheaper>[] => [
  {
    name: "order",
    head: say("cheaper.head.order"),
    heads: true,
    className: "benches",
    by: (one) => one.orderNumber,
    cell: (one) => (
      <Link to={one.packed ? `/shipment/${one.orderNumber}` : `/orders/${one.orderNumber}`}>{one.orderNumber}</Link>
    ),
  },
  { name: "customer", head: say("cheaper.head.customer"), by: (one) => one.customer, cell: (one) => one.customer },
  { name: "what", head: say("cheaper.head.what"), cell: (one) => adviceInWords(one.advice).replace(/:$/, "") },
  {
    name: "now",
    head: say("cheaper.head.now"),
    className: "figure",
    by: (one) => Number(one.cost),
    cell: (one) => showMoney({ amount: one.cost, currency }),
  },
  {
    name: "less",
    head: say("cheaper.head.less"),
    className: "figure strong",
    by: (one) => Number(one.advice.saves),
    cell: (one) => showMoney({ amount: one.advice.saves, currency }),
  },
  {
    name: "take",
    head: "",
    cell: (one) => {
      const taking = mayWork ? takingFrom(one, key) : null
      if (taking)
        return (
          <Act sends={taking}>
            <Button type="submit">{say("cheaper.take")}</Button>
          </Act>
        )
      const packedFirst = one.advice.kind === "pallet" || one.advice.kind === "loose"
      return <span className="pale">{say(packedFirst ? "cheaper.once-packed" : "cheaper.by-hand")}</span>
    },
  },
]
