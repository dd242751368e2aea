import { Button } from "@chakra-ui/react"
import { claimKinds } from "core/claims/index.ts"
import type { UnitShown } from "server/tracking/read.ts"
import { clock, dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { SignaturePicture } from "../parts/SignatureField.tsx"
import { WayMap } from "../parts/WayMap.tsx"
import { useShell } from "../shell/useNow.ts"

/** Where an order's packages are, with all that was told of each. */
export function OnTheWay({
  units,
  orderNumber,
  mayWork,
}: {
  units: readonly UnitShown[]
  orderNumber: string
  mayWork: boolean
}) {
  const going = units.filter((unit) => unit.left && unit.kind !== "return")
  if (going.length === 0) return null
  const delivered = going.filter((unit) => unit.state === "delivered").length
  return (
    <section className="on-the-way">
      <h2>{say("tracking.on-the-way")}</h2>
      {going.length > 1 ? <p>{say("tracking.delivered-count", { delivered, of: going.length })}</p> : null}
      <ul>
        {going.map((unit) => (
          <Unit key={unit.id} unit={unit} orderNumber={orderNumber} mayWork={mayWork} open={going.length === 1} />
        ))}
      </ul>
    </section>
  )
}

function Unit({
  unit,
  orderNumber,
  mayWork,
  open,
}: {
  unit: UnitShown
  orderNumber: string
  mayWork: boolean
  open: boolean
}) {
  const { zone } = useShell()
  const ended = unit.state === "delivered" || unit.state === "returned"
  return (
    <li>
      <p>
        <b>{unit.name}</b>{" "}
        <b className={unit.state === "lost" || unit.state === "held" ? "ember" : undefined}>
          {unit.deliveredAt
            ? say("tracking.delivered-to", {
                time: dayAndClock(unit.deliveredAt, unit.zone),
                name: unit.deliveredTo === "" ? "none" : unit.deliveredTo,
              })
            : say(`tracking.state.${unit.state}`)}
        </b>
        {unit.deliveredAt ? null : (
          <>
            {unit.place ? `, ${unit.place}` : ""}
            {unit.estimatedOn ? `, ${say("tracking.expected", { day: shortDay(unit.estimatedOn) })}` : ""}
          </>
        )}
        <br />
        <span className="code">{unit.tracking}</span> {unit.carrier}
      </p>
      {unit.events.length === 0 ? null : (
        <details open={open}>
          <summary>{say("tracking.events", { n: unit.events.length })}</summary>
          <ol className="events">
            {unit.events.map((event) => (
              <li key={event.id}>
                <span>{timeThere(event.at, event.zoneOffset, zone)}</span>{" "}
                <b>
                  {event.kind ? say(`tracking.kind.${event.kind}`) : say("tracking.unknown-code", { code: event.code })}
                </b>{" "}
                {[event.place, saysMore(event) ? event.text : "", event.name].filter(Boolean).join(", ")}
                {event.hasPicture ? (
                  <img
                    src={`/orders/${orderNumber}/pictures/${event.id}`}
                    alt={say("tracking.proof")}
                    className="proof"
                  />
                ) : null}
                {event.strokes.length > 0 ? <SignaturePicture strokes={event.strokes} /> : null}
              </li>
            ))}
          </ol>
          <WayMap way={unit.way} label={say("tracking.map", { package: unit.name })} />
        </details>
      )}
      {mayWork ? (
        <details className="back-move">
          <summary>{say("claim.start")}</summary>
          <ActForm intent="claim" sends={{ unit: unit.id }} id={`claim-${unit.id}`}>
            <Choice
              name="kind"
              id={`claim-kind-${unit.id}`}
              label="claim.kind"
              value={unit.state === "lost" || !unit.deliveredAt ? "loss" : "damage"}
              options={claimKinds.map((value) => ({ value, text: say(`claim.kind.${value}`) }))}
            />
            <Button type="submit" aria-label={say("claim.start-of", { package: unit.name })}>
              {say("claim.start")}
            </Button>
          </ActForm>
        </details>
      ) : null}
      {mayWork && !ended ? (
        <details className="back-move">
          <summary>{say("tracking.mark-delivered")}</summary>
          <ActForm intent="tracked" sends={{ unit: unit.id, kind: "delivered" }} id={`delivered-${unit.id}`}>
            <TextField name="name" id={`taken-${unit.id}`} label="tracking.received-by" value="" most={60} />
            <TextField name="note" id={`note-${unit.id}`} label="tracking.note" value="" most={120} />
            <Button type="submit">{say("tracking.mark-delivered")}</Button>
          </ActForm>
          <Act intent="tracked" sends={{ unit: unit.id, kind: "returned" }}>
            <Button type="submit" variant="ghost">
              {say("tracking.mark-returned")}
            </Button>
          </Act>
        </details>
      ) : null}
    </li>
  )
}

/** Whether what the carrier wrote says more than what his code means. */
const saysMore = ({ kind, text }: UnitShown["events"][number]): boolean =>
  kind === null || !text.toLowerCase().startsWith(say(`tracking.kind.${kind}`).toLowerCase())

/** Day and time as the clock there showed it; ours, where nobody said which that is. */
function timeThere(at: Date, offset: number | null, zone: string): string {
  if (offset === null) return dayAndClock(at, zone)
  const there = new Date(at.getTime() + offset * 60_000)
  return `${shortDay(there.toISOString().slice(0, 10))}, ${clock(there, "UTC")}`
}
