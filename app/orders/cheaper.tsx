import { Button } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import { useEffect } from "react"
import { Link, useRevalidator } from "react-router"
import { may } from "server/actors/index.ts"
import { type Cheaper, type CheaperOrders, cheaperSoon } from "server/advice/cheaper.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { adviceActs } from "../parts/adviceActs.server.ts"
import { adviceInWords, takingOf } from "../parts/adviceWords.ts"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Answer, Plate } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/cheaper"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const run = Number(new URL(request.url).searchParams.get("run")) || null
  return {
    // takes seconds where many orders were never looked at: then the page is there without, and asks again
    found: await cheaperSoon(work, run),
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

export default function CheaperPage({ loaderData, actionData: answered }: Route.ComponentProps) {
  const answer = useKept(answered)?.answer
  const { found, key } = loaderData
  useAskedAgain(found ? null : key)
  return <Page at={loaderData} found={found} answer={answer} />
}

/** Asks for the list again a little later, each time that it was not worked out yet. */
function useAskedAgain(key: string | null): void {
  const { revalidate } = useRevalidator()
  useEffect(() => {
    if (key === null) return
    const timer = setTimeout(() => void revalidate(), 1_000)
    return () => clearTimeout(timer)
  }, [key, revalidate])
}

/** The page while it is worked out, and with what was found. */
function Page({
  at,
  found,
  answer,
}: {
  at: Omit<Loaded, "found">
  found: CheaperOrders | null
  answer: Answer | undefined
}) {
  return (
    <Screen
      ribbon={{}}
      name="cheaper"
      sill={{ plate: plateOf(at, found), answer, words: [[say("words.order"), say("words.order.does")]] }}
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
          {say("cheaper.note")}{" "}
          {found && found.looked < found.all ? say("cheaper.looked", { n: found.looked, all: found.all }) : ""}
        </p>
        {found && found.taken.length > 0 ? <TakenOrders at={at} taken={found.taken} /> : null}
        {!found ? (
          <p role="status">{say("cheaper.wait")}</p>
        ) : found.found.length === 0 ? (
          <p>{say("cheaper.none")}</p>
        ) : (
          <Table
            caption={say("cheaper.page")}
            rows={found.found}
            rowKey={(one) => `${one.orderId} ${JSON.stringify(one.advice)}`}
            columns={columnsOf(at)}
          />
        )}
      </div>
    </Screen>
  )
}

/** What Enter does: the advice that saves most, of those that can be taken. */
function plateOf({ mayWork, key, currency }: Omit<Loaded, "found">, found: CheaperOrders | null): Plate {
  if (!found) return { verb: say("cheaper.wait"), detail: say("cheaper.note"), ready: false }
  const first = mayWork ? found.found.find((one) => takingFrom(one, key) !== null) : undefined
  const send = first && takingFrom(first, key)
  return first && send
    ? {
        verb: say("cheaper.plate"),
        detail: say("cheaper.plate-detail", {
          order: first.orderNumber,
          amount: showMoney({ amount: first.advice.saves, currency }),
        }),
        ready: true,
        send,
      }
    : {
        verb: say("plate.nothing"),
        detail: say(found.found.length > 0 ? "cheaper.only-by-hand" : "cheaper.none"),
        ready: false,
      }
}

/** What was done and can be taken back. */
function TakenOrders({ at, taken }: { at: Omit<Loaded, "found">; taken: CheaperOrders["taken"] }) {
  return (
    <section className="advice-list" aria-label={say("cheaper.done-title")}>
      {taken.map((one) => (
        <div key={one.orderId} className="otherwise">
          <span>
            <Link to={`/orders/${one.orderNumber}`}>{one.orderNumber}</Link>{" "}
            {say("cheaper.taken", { what: one.taken.words.replace(/:$/, "") })}
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
  )
}

/** What takes an advice from here: what must be packed first is not to be had yet. */
function takingFrom(one: Cheaper, key: string): Record<string, string> | null {
  const standing = one.advice.kind === "pallet" || one.advice.kind === "loose"
  if (standing && !one.packed) return null
  const taking = takingOf(one.advice, `${key} ${one.orderId} ${one.advice.kind}`)
  return taking && { ...taking, order: String(one.orderId) }
}

const columnsOf = ({ currency, key, mayWork }: Omit<Loaded, "found">): readonly TableColumn<Cheaper>[] => [
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
