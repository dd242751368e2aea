import { say } from "words/index.ts"
import type { RunRowView } from "./runView.server.ts"

/** What a cell of the rail looks like: done is ink, what is under way hatched, to do open, what needs a person hot. */
const looks: Readonly<Record<RunRowView["step"], string>> = {
  bought: "did",
  asked: "under",
  buying: "under",
  ready: "todo",
  waiting: "pale",
  stale: "pale",
  with: "pale",
  out: "pale",
  "not-picked": "pale",
  "not-packed": "pale",
  weight: "hot",
  size: "hot",
  stopped: "hot",
  customs: "hot",
  failed: "hot",
  "no-service": "hot",
  papers: "hot",
  balance: "hot",
}

/** Cells that still can be told apart; of more, those beside each other that are as far are one. */
const mostCells = 120

interface Cell {
  readonly from: number
  readonly rows: readonly RunRowView[]
}

function cellsOf(rows: readonly RunRowView[]): readonly Cell[] {
  if (rows.length <= mostCells) return rows.map((row, from) => ({ from, rows: [row] }))
  const cells: { from: number; rows: RunRowView[] }[] = []
  for (const [at, row] of rows.entries()) {
    const last = cells.at(-1)
    if (last?.rows[0]?.step === row.step) last.rows.push(row)
    else cells.push({ from: at, rows: [row] })
  }
  return cells
}

/** The orders of a run as one line, in their order: how far each is, at a glance. */
export function RunRail({ rows }: { rows: readonly RunRowView[] }) {
  const wide = Math.max(rows.length, 1)
  // lines of the hatching as far apart on the screen, however many orders there are
  const hatch = Math.max(0.25, wide / 200)
  return (
    <svg
      className="run-rail"
      viewBox={`0 0 ${wide} 1`}
      preserveAspectRatio="none"
      role="img"
      aria-label={say("shipping-run.table")}
    >
      <defs>
        <pattern id="run-under" width={hatch} height="1" patternUnits="userSpaceOnUse">
          <rect width={hatch} height="1" className="todo-fill" />
          <rect width={hatch / 2} height="1" className="did-fill" />
        </pattern>
      </defs>
      {cellsOf(rows).map(({ from, rows: [first, ...others] }) =>
        first ? (
          <rect key={first.orderId} x={from} y="0" width={1 + others.length} height="1" className={looks[first.step]}>
            <title>{`${[first, ...others.slice(-1)].map((one) => one.orderNumber).join("–")}: ${say(`shipping-run.step.${first.step}`)}`}</title>
          </rect>
        ) : null,
      )}
    </svg>
  )
}
