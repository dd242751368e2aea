import { Button } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import {
  type BoxWhy,
  lineOfKey,
  type OtherSuggestion,
  type PackingCost,
  piecesOfKey,
  type Standing,
  type SuggestedBox,
  type Suggestion,
} from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import { boxCounts } from "../parts/adviceWords.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What the server is sent to take a suggestion: it checks every place again. */
export const suggestedFields = (
  view: Pick<ShipmentView, "key">,
  suggestion: Suggestion,
  fill: boolean,
): Record<string, string> => ({
  intent: "suggested",
  key: view.key,
  fill: fill ? "yes" : "no",
  boxes: JSON.stringify(suggestion.boxes.map(({ code, placed }) => ({ code, placed }))),
})

/** Boxes of a suggestion in words: `2 × K12, K05`. */
export const boxesInWords = (suggestion: { readonly boxes: readonly Pick<SuggestedBox, "code">[] }): string =>
  boxCounts(suggestion.boxes)

/** The cartons that the goods would fill, to be taken with one press; and what goes into none. */
export function Suggested({
  view,
  suggestion,
  others,
  standings,
  hold,
}: {
  view: ShipmentView
  suggestion: Outcome<Suggestion> | null
  others: readonly OtherSuggestion[]
  standings: readonly Standing[]
  hold: (held: boolean) => void
}) {
  if (view.plannedLeft > 0 && view.state === "open")
    return (
      <Act intent="fill-plan" className="suggested">
        <span>{say("suggest.planned", { n: view.plannedLeft })}</span>
        <Button type="submit">{say("suggest.fill-plan")}</Button>
      </Act>
    )
  if (!view.toSuggest || view.toSuggest.loads.length === 0) return null
  if (!suggestion) return <p className="suggested pale">{say("suggest.wait")}</p>
  if (!suggestion.ok) return <p className="suggested ember">{sayReasons(suggestion.reasons)}</p>
  const { boxes, left } = suggestion.value
  const sku = (key: string) => view.lines.find((line) => String(line.id) === lineOfKey(key))?.sku ?? ""
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: nothing is done here but that what stands under the hand stays
    <div
      className="suggested"
      onPointerEnter={() => hold(true)}
      onPointerLeave={() => hold(false)}
      onFocus={() => hold(true)}
      onBlur={() => hold(false)}
    >
      {boxes.length > 0 ? (
        <Act sends={withoutFill(suggestedFields(view, suggestion.value, false))}>
          <span>
            {say("suggest.title")} <b>{boxesInWords(suggestion.value)}</b>{" "}
            {suggestion.value.cost ? costInWords(suggestion.value.cost) : null}
          </span>
          <Button type="submit" name="fill" value="no">
            <kbd>*</kbd> {say("suggest.take")}
          </Button>
          <Button type="submit" name="fill" value="yes">
            {say("suggest.fill")}
          </Button>
        </Act>
      ) : null}
      {others.length + standings.length > 0 ? (
        <div className="suggested-others">
          {others.map((other) => (
            <Other key={other.aim} view={view} other={other} than={suggestion.value} />
          ))}
          {standings.map((one) => (
            <OnPallet key={one.kind} view={view} one={one} than={suggestion.value} />
          ))}
        </div>
      ) : null}
      <Why boxes={boxes} cost={suggestion.value.cost} />
      {left.map((one) => (
        <p key={one.key} className="ember">
          {say("suggest.left", { n: one.quantity * piecesOfKey(one.key), sku: sku(one.key), why: sayReason(one.why) })}
        </p>
      ))}
    </div>
  )
}

const amount = (figure: number, currency: string): string => showMoney({ amount: figure.toFixed(2), currency })

/** What a packing costs, all told. */
const costInWords = ({ total, name, currency }: PackingCost): string =>
  say("suggest.cost", { cost: amount(total, currency), name })

/** Another packing of the same goods, with what it costs more or less, to be taken instead. */
function Other({ view, other, than }: { view: ShipmentView; other: OtherSuggestion; than: Suggestion }) {
  const { aim, suggestion } = other
  return (
    <Act sends={suggestedFields(view, suggestion, false)}>
      <span>{say(`suggest.aim.${aim}`)}</span>
      <b>{boxesInWords(suggestion)}</b>
      <Difference total={suggestion.cost?.total ?? null} than={than.cost} />
      <Button type="submit" variant="ghost">
        {say("suggest.instead")}
      </Button>
    </Act>
  )
}

/** The same goods on pallets, packed and built at once; or some of them, which are two shipments when they are packed. */
function OnPallet({ view, one, than }: { view: ShipmentView; one: Standing; than: Suggestion }) {
  const all = one.kind === "pallet"
  return (
    <Act sends={{ ...suggestedFields(view, { ...than, boxes: one.boxes }, true), pallet: all ? "yes" : "no" }}>
      <span>
        {all ? say("suggest.pallets", { n: one.pallets }) : say("suggest.mix", { n: one.pallets, loose: one.loose })}
      </span>
      <b>{boxesInWords(one)}</b>
      <Difference total={one.total} than={than.cost} by={one.services.join(" + ")} />
      <Button type="submit" variant="ghost">
        {say(all ? "suggest.on-pallets" : "suggest.fill")}
      </Button>
    </Act>
  )
}

/** What another way costs more, or less, than the suggestion. */
function Difference({ total, than, by }: { total: number | null; than: PackingCost | null; by?: string }) {
  if (total === null || !than) return <span />
  const more = total - than.total
  const cost = amount(Math.abs(more), than.currency)
  return (
    <span>
      {more < 0 ? <b className="less">{say("suggest.less", { cost })}</b> : say("suggest.more", { cost })}
      {by ? `, ${by}` : ""}
    </span>
  )
}

/** Why these cartons and no others: what the next smaller lacks, and what the next larger would cost. */
function Why({ boxes, cost }: { boxes: readonly SuggestedBox[]; cost: PackingCost | null }) {
  const told = boxes.flatMap(({ code, why }) => (code !== null && why ? [{ code, words: whyInWords(why, cost) }] : []))
  const once = [...new Map(told.map((one) => [`${one.code} ${one.words}`, one])).values()].filter((one) => one.words)
  if (once.length === 0) return null
  return (
    <details className="suggested-why">
      <summary>{say("suggest.why")}</summary>
      <ul>
        {once.map(({ code, words }) => (
          <li key={`${code} ${words}`}>
            <b>{code}</b> {words}
          </li>
        ))}
      </ul>
    </details>
  )
}

function whyInWords({ smaller, larger }: BoxWhy, cost: PackingCost | null): string {
  const less = smaller ? say(`suggest.lacks.${smaller.lacks}`, { code: smaller.code }) : ""
  const dearer =
    larger && cost && larger.more > 0.004
      ? say("suggest.larger", { code: larger.code, cost: amount(larger.more, cost.currency) })
      : larger && cost
        ? say("suggest.larger-same", { code: larger.code })
        : ""
  return [less, dearer].filter((one) => one !== "").join(" ")
}

/** The buttons say whether the cartons are filled. */
const withoutFill = ({ fill: _, ...fields }: Record<string, string>) => fields
