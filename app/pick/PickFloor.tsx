import { Button, Input } from "@chakra-ui/react"
import { inCases } from "core/documents/index.ts"
import { shortReasons, stepsLeft, toteNames } from "core/picking/index.ts"
import { Link, useLocation } from "react-router"
import type { OrderStop } from "server/picking/index.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { FloorDrawing } from "../parts/FloorDrawing.tsx"
import { Table } from "../parts/Table.tsx"
import type { Answer, Plate, SillProps, Understood } from "../shell/Sill.tsx"
import { type PickHand, pickInWords, pickMeaning } from "./pickMeaning.ts"
import type { PickView } from "./pickView.server.ts"

/** What a text means at the stop in hand, in words, before Enter. */
const pickUnderstands =
  (stop: OrderStop | null, hand: PickHand) =>
  (text: string): Understood | null => {
    const meant = stop ? pickMeaning(stop, hand, text) : null
    if (!stop || !meant) return null
    return meant.kind === "refused"
      ? { fits: false, words: sayReason(meant.why) }
      : { fits: true, words: pickInWords(stop, hand, meant) }
  }

/** What the plate waits for at a stop: the bin, the tote, the lot, or the item. */
export function stopPlate(stop: OrderStop, hand: PickHand): Plate {
  const [step] = stepsLeft(stop, hand)
  const left = stop.quantity - stop.picked
  if (step === "bin" || (!step && !stop.steps.item))
    return {
      verb: step ? say("pick.plate.bin", { bin: stop.bin }) : stop.bin,
      detail: say("pick.plate.bin-detail", { quantity: left, description: stop.description }),
      ready: false,
    }
  if (step)
    return {
      verb:
        step === "tote"
          ? say("pick.plate.tote", { tote: toteNames(stop.totes) })
          : say("pick.plate.lot", { lot: stop.lot ?? "" }),
      detail: say("pick.plate.bin-detail", { quantity: left, description: stop.description }),
      ready: false,
    }
  return {
    verb: say("pick.plate.item", { sku: stop.sku }),
    detail: say("pick.plate.item-detail", { left }),
    ready: false,
  }
}

/** The foot of a screen on which one picks: what a text means at the stop in hand, and what travels with each scan. */
export const pickSill = (
  stop: OrderStop | null,
  hand: PickHand,
  plate: Plate,
  answer: Answer | undefined,
): Pick<SillProps, "plate" | "understand" | "scanFields" | "answer" | "words"> => ({
  plate,
  understand: pickUnderstands(stop, hand),
  scanFields: { allocation: String(hand.allocation), bin: hand.bin, tote: hand.tote, lot: hand.lot, item: hand.item },
  answer,
  words: [
    [say("words.bin"), say("words.bin.does")],
    [say("words.item"), say("words.item.does.pick")],
    [say("words.digits"), say("words.digits.does.pick")],
    [say("words.order"), say("words.order.does")],
  ],
})

/** The stop in hand, to be read from a meter away. */
export function StopNow({
  view,
  stop,
  hand,
  several,
}: {
  view: PickView
  stop: OrderStop
  hand: PickHand
  several: boolean
}) {
  const left = stepsLeft(stop, hand)
  const doneStops = view.stops.filter((one) => one.picked >= one.quantity).length
  const steps = (["bin", "tote", "lot", "item"] as const).filter(
    (step) => stop.steps[step] && (step !== "tote" || stop.totes.length > 0) && (step !== "lot" || stop.lot !== null),
  )
  const cases = inCases(
    stop.quantity - stop.picked,
    Math.max(1, ...stop.levels.map((level) => level.count).filter((n) => n <= stop.quantity - stop.picked)),
  )
  const other = stop.claimedBy !== null && stop.claimedBy !== view.me ? view.people[stop.claimedBy] : null
  return (
    <>
      <p className="pick-step">
        {say("pick.of", { n: doneStops + 1, of: view.stops.length })}
        {stop.skippedAt ? `, ${say("pick.skipped")}` : ""}
        {other ? `, ${say("pick.elsewhere-at-work", { name: other })}` : ""}
      </p>
      <p className={hand.bin ? "pick-bin done" : "pick-bin"}>{stop.bin}</p>
      <div className="pick-what">
        <p className="pick-count">{stop.quantity - stop.picked}</p>
        <div>
          <p className="pick-description">{stop.description}</p>
          <p className="code">
            {stop.sku}
            {stop.lot ? `, ${say("pick.lot", { lot: stop.lot })}` : ""}
            {cases ? `, ${cases}` : ""}
          </p>
          <p className="code">
            {stop.levels
              .map((level) => `${level.name} ${level.gtin ?? "–"}${level.count > 1 ? ` (${level.count})` : ""}`)
              .join(", ")}
          </p>
        </div>
      </div>
      {stop.totes.length > 0 || several ? (
        <p className={hand.tote ? "pick-tote done" : "pick-tote"}>
          {stop.totes.length > 0 ? (
            <>
              <span>{say("pick.into")}</span> <b>{toteNames(stop.totes)}</b>
            </>
          ) : null}{" "}
          <span>{say("pick.for", { orderNumber: stop.orderNumber })}</span>
        </p>
      ) : null}
      <ol className="pick-steps" aria-label={say("pick.steps")}>
        {steps.map((step) => {
          const done = step === "item" ? stop.picked > 0 : !(left as readonly string[]).includes(step)
          return (
            <li key={step} className={done ? "done" : left[0] === step ? "now" : undefined}>
              {say(`pick.step.${step}`, { tote: toteNames(stop.totes), lot: stop.lot ?? "" })}
            </li>
          )
        })}
      </ol>
      <StopActs view={view} stop={stop} hand={hand} />
    </>
  )
}

function StopActs({ view, stop, hand }: { view: PickView; stop: OrderStop; hand: PickHand }) {
  const { pathname } = useLocation()
  const held = (
    <>
      <input type="hidden" name="key" value={view.key} />
      <input type="hidden" name="allocation" value={stop.allocationId} />
      <input type="hidden" name="bin" value={hand.bin} />
      <input type="hidden" name="tote" value={hand.tote} />
    </>
  )
  if (view.short?.allocationId === stop.allocationId) return <Short view={view} stop={stop} back={pathname} />
  return (
    <>
      <ActForm intent="by-hand" className="by-hand">
        {held}
        <label htmlFor="by-hand">{say("pick.quantity-label")}</label>
        <Input
          id="by-hand"
          name="quantity"
          type="number"
          min={1}
          max={stop.quantity - stop.picked}
          defaultValue={stop.quantity - stop.picked}
          key={`${stop.allocationId} ${stop.picked}`}
          width="90px"
        />
        <Button type="submit">{say("pick.by-hand")}</Button>
        <span>{say("pick.by-hand-note")}</span>
      </ActForm>
      <div className="pick-acts">
        <Act intent="skip">
          {held}
          <Button type="submit">{say("pick.skip")}</Button>
        </Act>
        <Link className="as-button" to={`?stop=${stop.allocationId}&short=1`} preventScrollReset>
          {say("pick.short")}
        </Link>
        <Undo view={view} />
      </div>
    </>
  )
}

/** Takes back what one took last. */
export function Undo({ view }: { view: PickView }) {
  if (!view.last) return null
  return (
    <Act intent="undo" sends={{ take: view.last.scanId }}>
      <Button type="submit" variant="ghost">
        {say("pick.undo", { n: view.last.quantity, sku: view.last.sku })}
      </Button>
    </Act>
  )
}

/** What is wrong at a bin, and what is to be done about it: one press. */
function Short({ view, stop, back }: { view: PickView; stop: OrderStop; back: string }) {
  return (
    <ActForm intent="short" sends={{ key: view.key, allocation: stop.allocationId }} action={back} className="short">
      <h2>{say("short.title", { missing: stop.quantity - stop.picked, sku: stop.sku, bin: stop.bin })}</h2>

      <fieldset>
        <legend>{say("short.why")}</legend>
        {shortReasons
          .filter((why) => why !== "lot-bad" || stop.lot !== null)
          .map((why, index) => (
            <label key={why} className="check">
              <input type="radio" name="why" value={why} defaultChecked={index === (stop.picked > 0 ? 1 : 0)} />{" "}
              {say(`short.why.${why}`)}
            </label>
          ))}
      </fieldset>
      <fieldset>
        <legend>{say("short.way")}</legend>
        <ul>
          {(view.short?.choices ?? []).map((choice) => (
            <li key={choice.way}>
              <Button
                type="submit"
                name="way"
                value={choice.way}
                disabled={choice.impossible !== null || !choice.allowed}
              >
                {say(
                  choice.way === "elsewhere" || choice.way === "warehouse"
                    ? `short.way.${choice.way}${choice.from ? "" : "-none"}`
                    : `short.way.${choice.way}`,
                  { from: choice.from },
                )}
              </Button>
              {choice.impossible ? (
                <small>{sayReason(choice.impossible)}</small>
              ) : choice.allowed ? null : (
                <small>{say("short.lead-only")}</small>
              )}
            </li>
          ))}
        </ul>
      </fieldset>
      <p className="note">{say("short.count-note")}</p>
      <Link to={`?stop=${stop.allocationId}`}>{say("short.back")}</Link>
    </ActForm>
  )
}

/** What is still to be walked comes first, what is done after it. */
const leftFirst = (stops: readonly OrderStop[]): OrderStop[] => {
  const done = (one: OrderStop) => one.picked >= one.quantity
  return [...stops.filter((one) => !done(one)), ...stops.filter(done)]
}

/** How short the walk is known to be, and what a wish for its order costs. */
function WalkKnown({ view: { proof, wish } }: { view: PickView }) {
  if (!proof) return null
  const known =
    proof.is === "within"
      ? say("pick.walk-within", { percent: proof.percent })
      : say(wish ? "pick.walk-shortest-so" : "pick.walk-shortest")
  const what = wish && (wish.heavy > 0 ? (wish.cold > 0 ? "both" : "heavy") : "cold")
  return (
    <small>
      {known}
      {wish && what ? ` ${say(`pick.walk-wish.${what}`, { metres: Math.round(wish.more) })}` : null}
    </small>
  )
}

/** The floor with the walk, and what is left of it. */
export function StopsLeft({ view, stop, several }: { view: PickView; stop: OrderStop | null; several: boolean }) {
  const metres = (value: number) => Math.round(value)
  return (
    <section className="pick-walk">
      {view.floor ? (
        <figure className="pick-plan">
          <FloorDrawing floor={view.floor} marks={view.marks} path={view.path} label={say("pick.plan")} />
          <figcaption>
            {view.metres === null || view.plainMetres === null
              ? say("pick.walk-unknown")
              : metres(view.plainMetres) > metres(view.metres)
                ? say("pick.walk-saved", { metres: metres(view.metres), plain: metres(view.plainMetres) })
                : say("pick.walk-length", { metres: metres(view.metres) })}{" "}
            <WalkKnown view={view} />
          </figcaption>
        </figure>
      ) : null}
      <Table
        caption={say("pick.table")}
        sorts={false}
        rows={leftFirst(view.stops)}
        rowKey={(one) => one.allocationId}
        rowClass={(one) => (one === stop ? "next" : isTaken(one) ? "pale" : undefined)}
        columns={[
          {
            name: "bin",
            head: say("pick.bin"),
            heads: true,
            className: "code big",
            cell: (one) =>
              isTaken(one) || one === stop ? (
                one.bin
              ) : (
                <Link to={`?stop=${one.allocationId}`} aria-label={say("pick.go-there", { bin: one.bin })}>
                  {one.bin}
                </Link>
              ),
          },
          {
            name: "line",
            head: several ? say("pick.into") : say("pick.line"),
            cell: (one) => (several ? toteNames(one.totes) || one.orderNumber : one.line),
          },
          {
            name: "item",
            head: say("pick.item"),
            cell: (one) => (
              <>
                {one.description}
                <br />
                <span className="code">
                  {one.sku}
                  {one.lot ? `, ${say("pick.lot", { lot: one.lot })}` : ""}
                  {one.unverified > 0 ? `, ${say("pick.unverified")}` : ""}
                  {!isTaken(one) && one.claimedBy !== null && one.claimedBy !== view.me
                    ? `, ${say("pick.elsewhere-at-work", { name: view.people[one.claimedBy] ?? "" })}`
                    : ""}
                </span>
              </>
            ),
          },
          { name: "take", head: say("pick.take"), className: "figure big", cell: (one) => one.quantity },
          { name: "left", head: say("pick.left"), className: "figure big", cell: (one) => one.quantity - one.picked },
        ]}
      />
    </section>
  )
}

const isTaken = (one: { readonly picked: number; readonly quantity: number }): boolean => one.picked >= one.quantity
