import { Button } from "@chakra-ui/react"
import type { SuggestedBox, Suggestion } from "core/packing/index.ts"
import type { Outcome } from "core/refusal/index.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
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
  boxes: JSON.stringify(suggestion.boxes),
})

/** Boxes of a suggestion in words: `2 × K12, K05`. */
export function boxesInWords(suggestion: { readonly boxes: readonly Pick<SuggestedBox, "code">[] }): string {
  const counts = new Map<string, number>()
  for (const one of suggestion.boxes) {
    const name = one.code ?? say("suggest.own")
    counts.set(name, (counts.get(name) ?? 0) + 1)
  }
  return [...counts].map(([code, n]) => (n === 1 ? code : say("suggest.count", { n, code }))).join(", ")
}

/** The cartons that the goods would fill, to be taken with one press; and what goes into none. */
export function Suggested({
  view,
  suggestion,
  hold,
}: {
  view: ShipmentView
  suggestion: Outcome<Suggestion> | null
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
  const sku = (key: string) => view.lines.find((line) => String(line.id) === key)?.sku ?? ""
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
            {say("suggest.title")} <b>{boxesInWords(suggestion.value)}</b>
          </span>
          <Button type="submit" name="fill" value="no">
            <kbd>*</kbd> {say("suggest.take")}
          </Button>
          <Button type="submit" name="fill" value="yes">
            {say("suggest.fill")}
          </Button>
        </Act>
      ) : null}
      {left.map((one) => (
        <p key={one.key} className="ember">
          {say("suggest.left", { n: one.quantity, sku: sku(one.key), why: sayReason(one.why) })}
        </p>
      ))}
    </div>
  )
}

/** The buttons say whether the cartons are filled. */
const withoutFill = ({ fill: _, ...fields }: Record<string, string>) => fields
