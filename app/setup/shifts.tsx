import { Button } from "@chakra-ui/react"
import { useState } from "react"
import { useNavigation } from "react-router"
import { calendarDays, closeDay, saveWork, workForm } from "server/decisions/shifts.ts"
import { workContext } from "server/http/context.ts"
import { measuredWork } from "server/measures/index.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm, FieldError, useTypedRows } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/shifts"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  const { warehouse } = work
  return {
    rights: setUpRights(work.actor),
    name: warehouse.name,
    zone: warehouse.zone,
    currency: warehouse.currency,
    version: warehouse.version,
    hands: warehouse.hands,
    handHour: Number(warehouse.handHour).toFixed(2),
    leavePolicy: warehouse.leavePolicy as string,
    workload: warehouse.workload,
    periods: warehouse.periods.map((one) => ({ ...one, hands: one.hands ?? null })),
    measured: await measuredWork(work.db, warehouse.id),
    days: await calendarDays(work.db, warehouse, work.now),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const turn = (closed: boolean) =>
    act(
      z.object({ date: field.text(10), name: field.text(60) }),
      (work, { date, name }) => closeDay(work, date, name, closed),
      (_, { date }) => say(closed ? "shifts.closed" : "shifts.opened", { day: shortDay(date) }),
    )
  return answerTo(request, context.get(workContext), {
    save: act(workForm, saveWork, () => say("shifts.saved")),
    close: turn(true),
    open: turn(false),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.shifts")} · ${say("app.name")}` }]

export default function Work({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  return (
    <Screen
      ribbon={{}}
      name="work"
      sill={{
        plate: {
          verb: say("shifts.plate", { name: at.name }),
          detail: say("shifts.plate-detail"),
          ready: true,
          form: "shifts-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.shifts" rights={at.rights} />
      <div className="shifts-body">
        <Edit at={at} key={`${at.name} ${at.version}`} />
        <section className="shifts-days">
          <h2>{say("shifts.days")}</h2>
          <p className="note">{say("shifts.days-note")}</p>
          <ActForm intent="close" className="shifts-day-new" key={at.days.map((day) => day.date).join()}>
            <TextField name="date" label="shifts.day" type="date" needed />
            <TextField name="name" label="shifts.day-name" most={60} />
            <Button type="submit">{say("shifts.close")}</Button>
          </ActForm>
          <Table caption={say("shifts.days")} headless rows={at.days} rowKey={(day) => day.date} columns={dayColumns} />
        </section>
      </div>
    </Screen>
  )
}

type At = Awaited<ReturnType<typeof loader>>

const dayColumns: readonly TableColumn<At["days"][number]>[] = [
  { name: "day", head: "", heads: true, cell: (day) => `${shortDay(day.date)} ${day.date.slice(0, 4)}` },
  { name: "name", head: "", cell: (day) => day.name },
  {
    name: "closed",
    head: "",
    cell: (day) => (day.closed ? <b>{say("shifts.is-closed")}</b> : say("shifts.is-open")),
  },
  {
    name: "act",
    head: "",
    className: "acts",
    cell: (day) => {
      const does = say(day.closed ? "shifts.open" : "shifts.close")
      return (
        <Act intent={day.closed ? "open" : "close"} sends={{ date: day.date, name: day.name }}>
          <button type="submit" className="as-link" aria-label={`${does} ${day.date}`}>
            {does}
          </button>
        </Act>
      )
    },
  },
]
const coefficients = [
  ["per_order", "perOrder"],
  ["per_bin", "perBin"],
  ["per_line", "perLine"],
  ["per_package", "perPackage"],
  ["per_paper", "perPaper"],
] as const
const kinds = ["shift", "break"] as const

function Edit({ at }: { at: At }) {
  const busy = useNavigation().state !== "idle"
  return (
    <ActForm intent="save" sends={{ version: at.version }} id="shifts-form" className="shifts-edit">
      <section>
        <Periods at={at} />
        <div className="shifts-people">
          <TextField name="hands" label="shifts.hands" value={String(at.hands)} mode="numeric" />
          <TextField
            name="hand_hour"
            label="shifts.hand-hour"
            value={at.handHour}
            mode="decimal"
            note="shifts.hand-hour-note"
          />
          <Choice
            name="leave_policy"
            label="shifts.leave"
            value={at.leavePolicy}
            options={(["soonest", "latest"] as const).map((one) => ({ value: one, text: say(`shifts.leave.${one}`) }))}
          />
        </div>
      </section>
      <section>
        <h2>{say("shifts.minutes")}</h2>
        <p className="note">{say("shifts.minutes-note")}</p>
        <div className="shifts-minutes">
          {coefficients.map(([name, of]) => (
            <TextField
              key={name}
              name={name}
              label={`shifts.${name}`}
              value={String(at.workload[of])}
              mode="decimal"
              most={7}
            />
          ))}
        </div>
        <Measured at={at} />
        <Button type="submit" disabled={busy}>
          {say("shifts.save")}
        </Button>
      </section>
    </ActForm>
  )
}

/** Shifts and breaks, as many as there are. */
function Periods({ at }: { at: At }) {
  const typed = useTypedRows("periods")
  const [periods, setPeriods] = useState(() =>
    (typed?.map(periodOf) ?? at.periods).map((one, key) => ({ ...one, key })),
  )
  const [next, setNext] = useState(periods.length)
  const [rowsChanged, setRowsChanged] = useState(typed !== null)
  const add = (kind: "shift" | "break") => {
    const [starts, ends] = kind === "shift" ? (["08:00", "16:00"] as const) : (["12:00", "12:30"] as const)
    setPeriods([...periods, { kind, starts, ends, hands: null, key: next }])
    setNext(next + 1)
    setRowsChanged(true)
  }
  const drop = (key: number) => {
    setPeriods(periods.filter((other) => other.key !== key))
    setRowsChanged(true)
  }
  return (
    <>
      <h2>{say("shifts.shifts", { zone: at.zone })}</h2>
      <table className="shifts-periods">
        <thead>
          <tr>
            {(["kind", "starts", "ends", "hands"] as const).map((name) => (
              <th key={name} scope="col">
                {say(`shifts.head.${name}`)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {periods.map((one, row) => (
            <PeriodRow key={one.key} one={one} row={row} usual={at.hands} onDrop={() => drop(one.key)} />
          ))}
        </tbody>
      </table>
      <FieldError name="periods" />
      {rowsChanged ? <input type="hidden" name="changed" value="periods" /> : null}
      <p className="shifts-adds">
        <button type="button" onClick={() => add("shift")}>
          {say("shifts.add-shift")}
        </button>
        <button type="button" onClick={() => add("break")}>
          {say("shifts.add-break")}
        </button>
      </p>
    </>
  )
}

/** A shift or a break as a person types it. */
interface Period {
  readonly kind: "shift" | "break"
  readonly starts: string
  readonly ends: string
  readonly hands: number | null
}

const periodOf = (row: Readonly<Record<string, string | undefined>>): Period => ({
  kind: row.kind === "break" ? "break" : "shift",
  starts: row.starts ?? "",
  ends: row.ends ?? "",
  hands: row.hands ? Number(row.hands) : null,
})

function PeriodRow({ one, row, usual, onDrop }: { one: Period; row: number; usual: number; onDrop: () => void }) {
  const label = (name: "kind" | "starts" | "ends" | "hands") =>
    say("shifts.row", { what: say(`shifts.head.${name}`), row: row + 1 })
  return (
    <tr>
      <td>
        <select name={`periods[${row}].kind`} defaultValue={one.kind} aria-label={label("kind")}>
          {kinds.map((kind) => (
            <option key={kind} value={kind}>
              {say(`shifts.kind.${kind}`)}
            </option>
          ))}
        </select>
      </td>
      {(["starts", "ends"] as const).map((name) => (
        <td key={name}>
          <input
            type="text"
            inputMode="numeric"
            pattern="([01][0-9]|2[0-3]):[0-5][0-9]"
            maxLength={5}
            name={`periods[${row}].${name}`}
            defaultValue={one[name]}
            required
            aria-label={label(name)}
          />
          <FieldError name={`periods[${row}].${name}`} />
        </td>
      ))}
      <td>
        <input
          type="number"
          name={`periods[${row}].hands`}
          min={1}
          max={99}
          defaultValue={one.hands ?? ""}
          placeholder={one.kind === "shift" ? String(usual) : ""}
          aria-label={label("hands")}
        />
        <FieldError name={`periods[${row}].hands`} />
      </td>
      <td>
        <button type="button" aria-label={say("shifts.drop-row", { row: row + 1 })} onClick={onDrop}>
          ×
        </button>
      </td>
    </tr>
  )
}

/** Minutes that were predicted for finished orders, beside those that they took. */
function Measured({ at }: { at: At }) {
  const { orders, ...sides } = at.measured
  return (
    <Table
      className="rows tight"
      title={orders === 0 ? say("shifts.no-measures") : say("shifts.measures", { n: orders })}
      sorts={false}
      rows={[
        { side: "predicted" as const, ...sides.predicted },
        { side: "measured" as const, ...sides.measured },
      ]}
      rowKey={(one) => one.side}
      columns={[
        { name: "side", head: "", heads: true, cell: (one) => say(`shifts.${one.side}`) },
        ...(["pick", "pack", "papers"] as const).map((kind) => ({
          name: kind,
          head: say(`shifts.of.${kind}`),
          className: "figure",
          cell: (one: Readonly<Record<typeof kind, number>>) => (orders === 0 ? "–" : (one[kind] / orders).toFixed(1)),
        })),
      ]}
    />
  )
}
