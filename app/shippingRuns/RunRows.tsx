import { Link } from "react-router"
import { clockTime, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import type { Chosen } from "../parts/GroupBar.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { tickColumn } from "../parts/tickColumn.tsx"
import type { Answer } from "../shell/Sill.tsx"
import type { RunRowView, RunView } from "./runView.server.ts"
import { WeightField } from "./WeightField.tsx"

/** Packages whose weights a row has fields for; more are weighed at the bench. */
const mostFields = 3

interface Acts {
  readonly run: RunView
  readonly chosen: Chosen
  readonly onAnswer: (answer: Answer) => void
  /** Chooses this order alone, to change something of it. */
  readonly onChange: (orderId: number, what: string) => void
  /** The package that the scale weighs next. */
  readonly next: string | null
}

/** The orders of a run, each with how far it is and what is to be done about it. */
export function RunRows({ rows, ...acts }: { rows: readonly RunRowView[] } & Acts) {
  return (
    <Table
      className="rows run-rows"
      caption={say("shipping-run.table")}
      ref={acts.chosen.table}
      rows={rows}
      rowKey={(row) => row.orderId}
      rowClass={(row) =>
        acts.chosen.ids.has(row.orderId) ? "next" : row.step === "out" || row.step === "with" ? "pale" : undefined
      }
      columns={columnsOf(acts, rows.length)}
    />
  )
}

/** What has no value yet stands after all that has one. */
const last = "~"

const columnsOf = (acts: Acts, shown: number): readonly TableColumn<RunRowView>[] => [
  tickColumn(acts.chosen, shown, (row) => ({ id: row.orderId, orderNumber: row.orderNumber })),
  {
    name: "order",
    heads: true,
    head: say("shipping-run.head.order"),
    by: (row) => row.orderNumber,
    cell: (row) => <Link to={`/orders/${row.orderNumber}`}>{row.orderNumber}</Link>,
  },
  {
    name: "customer",
    className: "run-to",
    head: say("shipping-run.head.customer"),
    by: (row) => row.customer,
    cell: (row) => (
      <>
        {row.customer} <small>{row.place}</small>
      </>
    ),
  },
  {
    name: "step",
    className: (row) => (hot.has(row.step) ? "run-step ember" : "run-step"),
    head: say("shipping-run.head.step"),
    by: (row) => say(`shipping-run.step.${row.step}`),
    cell: (row) => <Step row={row} acts={acts} />,
  },
  {
    name: "weight",
    className: "run-weight",
    head: say("shipping-run.head.packages"),
    by: (row) => row.packages.reduce((sum, one) => sum + Number(one.lb), 0),
    cell: (row) => <Weights row={row} acts={acts} />,
  },
  {
    name: "service",
    className: "run-service",
    head: say("shipping-run.head.service"),
    by: (row) => row.service?.name ?? last,
    cell: (row) => <Service row={row} onChange={acts.onChange} />,
  },
  {
    name: "leaves",
    className: "sign",
    head: say("shipping-run.head.leaves"),
    by: (row) => `${row.leaves ?? last} ${row.door ?? ""}`,
    cell: (row) =>
      row.leaves ? (
        <>
          {shortDay(row.leaves)} {row.door ? <b className="plate-small">{row.door}</b> : null}
        </>
      ) : null,
  },
  {
    name: "arrives",
    className: (row) => (row.late && row.step !== "bought" ? "sign ember" : "sign"),
    head: say("shipping-run.head.arrives"),
    by: (row) => row.arrives ?? last,
    cell: (row) => (row.arrives ? arrivalOf(row.arrives) : ""),
  },
  {
    name: "cost",
    className: "figure strong",
    head: say("shipping-run.head.cost"),
    by: (row) => Number(row.cost ?? Number.POSITIVE_INFINITY),
    cell: (row) =>
      row.cost === null ? (
        ""
      ) : row.packed ? (
        row.cost
      ) : (
        <small>{say("shipping-run.estimate", { cost: row.cost })}</small>
      ),
  },
  {
    name: "charged",
    className: "figure",
    head: say("shipping-run.head.charged"),
    by: (row) => Number(row.charged ?? Number.POSITIVE_INFINITY),
    cell: (row) => row.charged ?? "",
  },
]

const hot: ReadonlySet<RunRowView["step"]> = new Set([
  "weight",
  "size",
  "stopped",
  "customs",
  "failed",
  "no-service",
  "papers",
  "balance",
])

const arrivalOf = (text: string): string =>
  text.length > 10 ? `${shortDay(text.slice(0, 10))}, ${clockTime(text.slice(11))}` : shortDay(text)

/** Where what keeps an order is mended, by what it is. */
const remedies = {
  stopped: "/orders/",
  customs: "/orders/",
  "not-picked": "/pick/",
  size: "/shipment/",
  "no-service": "/shipment/",
  papers: "/shipment/",
  balance: "/shipment/",
} as const

/** How far an order is, why, and what can be done about it right here. */
function Step({ row, acts }: { row: RunRowView; acts: Acts }) {
  const { step, orderNumber, orderId } = row
  const why = sayReasons(row.reasons)
  const remedy = step in remedies ? remedies[step as keyof typeof remedies] : null
  const asks = (pack: boolean) => ({ order: orderId, ...(pack ? { pack: "on" } : {}) })
  return (
    <>
      <b>{say(`shipping-run.step.${step}`)}</b>
      {why ? `: ${why}` : ""}
      {step === "bought" ? (
        <>
          {` ${row.tracking ?? ""}, `}
          <span className={row.printed === "no" ? "ember" : undefined}>
            {say(`shipping-run.printed.${row.printed}`)}
          </span>{" "}
          {row.labelId !== null && row.printed !== "no" && acts.run.mayWork ? (
            <Act intent="print" sends={{ from: row.labelId, key: acts.run.key }} className="in-line">
              <button type="submit" className="link-button">
                {say("shipping-run.print-from")}
              </button>
            </Act>
          ) : null}
        </>
      ) : null}{" "}
      {remedy ? (
        <Link to={`${remedy}${orderNumber}`}>{say(`shipping-run.remedy.${step as keyof typeof remedies}`)}</Link>
      ) : null}{" "}
      {step === "not-packed" ? (
        <>
          {acts.run.packs && row.packable ? (
            <Act intent="prepare" sends={asks(true)} className="in-line">
              <button type="submit" className="link-button">
                {say("shipping-run.pack-one")}
              </button>
            </Act>
          ) : null}{" "}
          <Link to={`/shipment/${orderNumber}`}>{say("shipping-run.remedy.not-packed")}</Link>
        </>
      ) : null}
      {step === "stale" || step === "papers" ? (
        <Act intent="prepare" sends={asks(false)} className="in-line">
          <button type="submit" className="link-button">
            {say("shipping-run.rate-one")}
          </button>
        </Act>
      ) : null}
      {step === "failed" ? (
        <>
          <Act intent="prepare" sends={asks(false)} className="in-line">
            <button type="submit" className="link-button">
              {say("shipping-run.try-one")}
            </button>
          </Act>{" "}
          <Link to={`/shipment/${orderNumber}`}>{say("shipping-run.remedy.failed")}</Link>
        </>
      ) : null}
    </>
  )
}

function Weights({ row, acts }: { row: RunRowView; acts: Acts }) {
  const done = ["asked", "buying", "bought", "out", "with"].includes(row.step)
  if (done) return <>{row.packages.map((one) => one.lb).join(" ")}</>
  return (
    <span className="weights">
      {row.packages.slice(0, mostFields).map((one) => {
        const name = `${row.orderNumber}-${one.number}`
        return (
          <span key={one.number} className={acts.next === name ? "weighs" : undefined}>
            <WeightField
              orderId={row.orderId}
              name={name}
              number={one.number}
              calculated={one.lb}
              measured={one.measuredLb}
              onAnswer={acts.onAnswer}
            />
          </span>
        )
      })}
      {row.packages.length > mostFields ? (
        <Link to={`/shipment/${row.orderNumber}`}>+{row.packages.length - mostFields}</Link>
      ) : null}
    </span>
  )
}

function Service({ row, onChange }: { row: RunRowView; onChange: Acts["onChange"] }) {
  if (!row.service) return null
  const words = (
    <>
      {row.service.name} <small>{row.service.carrier}</small>
    </>
  )
  if (["asked", "buying", "bought", "out"].includes(row.step)) return words
  return (
    <button
      type="button"
      className="link-button"
      onClick={() => onChange(row.orderId, "service")}
      title={row.byHand ? say("shipping-run.by-hand") : undefined}
    >
      {words}
      {row.byHand ? " ✓" : ""}
    </button>
  )
}
