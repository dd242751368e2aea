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
  balance: "hot",
}

/** The orders of a run as one line, in their order: how far each is, at a glance. */
export function RunRail({ rows }: { rows: readonly RunRowView[] }) {
  const wide = Math.max(rows.length, 1)
  return (
    <svg
      className="run-rail"
      viewBox={`0 0 ${wide} 1`}
      preserveAspectRatio="none"
      role="img"
      aria-label={say("shipping-run.table")}
    >
      <defs>
        <pattern id="run-under" width="0.25" height="0.25" patternUnits="userSpaceOnUse">
          <rect width="0.25" height="0.25" className="todo-fill" />
          <rect width="0.125" height="0.25" className="did-fill" />
        </pattern>
      </defs>
      {rows.map((row, at) => (
        <rect key={row.orderId} x={at} y="0" width="1" height="1" className={looks[row.step]}>
          <title>{`${row.orderNumber}: ${say(`shipping-run.step.${row.step}`)}`}</title>
        </rect>
      ))}
    </svg>
  )
}
