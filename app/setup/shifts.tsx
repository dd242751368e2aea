import { Button, Input } from "@chakra-ui/react"
import { useState } from "react"
import { useNavigation } from "react-router"
import { calendarDays, closeDay, saveWork, workForm } from "server/decisions/shifts.ts"
import { workContext } from "server/http/context.ts"
import { measuredWork } from "server/measures/index.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
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
          <table className="rows">
            <caption className="sr-only">{say("shifts.days")}</caption>
            <tbody>
              {at.days.map((day) => (
                <tr key={day.date}>
                  <th scope="row">
                    {shortDay(day.date)} {day.date.slice(0, 4)}
                  </th>
                  <td>{day.name}</td>
                  <td>{day.closed ? <b>{say("shifts.is-closed")}</b> : say("shifts.is-open")}</td>
                  <td className="acts">
                    <Act intent={day.closed ? "open" : "close"} sends={{ date: day.date, name: day.name }}>
                      <button
                        type="submit"
                        className="as-link"
                        aria-label={`${say(day.closed ? "shifts.open" : "shifts.close")} ${day.date}`}
                      >
                        {say(day.closed ? "shifts.open" : "shifts.close")}
                      </button>
                    </Act>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
    </Screen>
  )
}

type At = Awaited<ReturnType<typeof loader>>
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
  const [periods, setPeriods] = useState(() => at.periods.map((one, index) => ({ ...one, key: index })))
  const [next, setNext] = useState(periods.length)
  const add = (kind: "shift" | "break") => {
    setPeriods([
      ...periods,
      {
        kind,
        starts: kind === "shift" ? "08:00" : "12:00",
        ends: kind === "shift" ? "16:00" : "12:30",
        hands: null,
        key: next,
      },
    ])
    setNext(next + 1)
  }
  return (
    <ActForm intent="save" sends={{ version: at.version }} id="shifts-form" className="shifts-edit">
      <section>
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
              <tr key={one.key}>
                <td>
                  <select
                    name="period_kind"
                    defaultValue={one.kind}
                    aria-label={say("shifts.row", { what: say("shifts.head.kind"), row: row + 1 })}
                  >
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
                      name={`period_${name}`}
                      defaultValue={one[name]}
                      required
                      aria-label={say("shifts.row", { what: say(`shifts.head.${name}`), row: row + 1 })}
                    />
                  </td>
                ))}
                <td>
                  <input
                    type="number"
                    name="period_hands"
                    min={1}
                    max={99}
                    defaultValue={one.hands ?? ""}
                    placeholder={one.kind === "shift" ? String(at.hands) : ""}
                    aria-label={say("shifts.row", { what: say("shifts.head.hands"), row: row + 1 })}
                  />
                </td>
                <td>
                  <button
                    type="button"
                    aria-label={say("shifts.drop-row", { row: row + 1 })}
                    onClick={() => setPeriods(periods.filter((other) => other !== one))}
                  >
                    ×
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="shifts-adds">
          <button type="button" onClick={() => add("shift")}>
            {say("shifts.add-shift")}
          </button>
          <button type="button" onClick={() => add("break")}>
            {say("shifts.add-break")}
          </button>
        </p>
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
            <div className="field" key={name}>
              <label htmlFor={name}>{say(`shifts.${name}`)}</label>
              <Input id={name} name={name} defaultValue={String(at.workload[of])} inputMode="decimal" maxLength={7} />
            </div>
          ))}
        </div>
        <table className="rows tight">
          <caption>
            {at.measured.orders === 0 ? say("shifts.no-measures") : say("shifts.measures", { n: at.measured.orders })}
          </caption>
          <thead>
            <tr>
              <th scope="col" />
              {(["pick", "pack", "papers"] as const).map((kind) => (
                <th key={kind} scope="col" className="figure">
                  {say(`shifts.of.${kind}`)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {(["predicted", "measured"] as const).map((side) => (
              <tr key={side}>
                <th scope="row">{say(`shifts.${side}`)}</th>
                {(["pick", "pack", "papers"] as const).map((kind) => (
                  <td key={kind} className="figure">
                    {at.measured.orders === 0 ? "–" : (at.measured[side][kind] / at.measured.orders).toFixed(1)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <Button type="submit" disabled={busy}>
          {say("shifts.save")}
        </Button>
      </section>
    </ActForm>
  )
}
