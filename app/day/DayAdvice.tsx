import type { CollectionId } from "core/ids/index.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"

/** The way out of a late day, as the day shows it. */
export interface AdviceShown {
  readonly collectionId: CollectionId
  readonly door: string
  readonly missing: number
  readonly lost: number
  readonly moves: readonly {
    readonly orderNumber: string
    readonly door: string
    readonly cutOff: Date
    readonly sameDay: boolean
    readonly inTime: boolean
  }[]
  readonly dearer: string
  readonly hands: { readonly more: number; readonly cost: string | null } | null
  readonly currency: string
  readonly take: "move" | "hands" | null
  readonly fingerprint: string
}

const price = (amount: string, currency: string): string => {
  if (Number(amount) === 0) return say("advice.same-price")
  const figure = amount.replace("-", "")
  const sign = amount.startsWith("-") ? "−" : "+"
  return currency === "USD" ? `${sign}$${figure}` : `${sign}${figure} ${currency}`
}

export const adviceWords = {
  hands: (advice: AdviceShown): string => {
    if (!advice.hands) return ""
    const words = say("advice.hands", { more: advice.hands.more })
    return advice.hands.cost ? `${words}, ${price(advice.hands.cost, advice.currency)}` : words
  },
  moves: (advice: AdviceShown, zone: string): string => {
    const doors = new Set(advice.moves.map((move) => `${move.door} ${move.cutOff.getTime()}`))
    const [first] = advice.moves
    const cost = price(advice.dearer, advice.currency)
    if (!first) return say("advice.none")
    const n = advice.moves.length
    const when = advice.moves.every((move) => move.sameDay) ? say("advice.same-day") : say("advice.later-day")
    return doors.size === 1
      ? say("advice.move", { n, door: first.door, time: clock(first.cutOff, zone), when, cost })
      : say("advice.move-doors", {
          n,
          doors: [...new Set(advice.moves.map((move) => move.door))].join(", "),
          when,
          cost,
        })
  },
}

/** What a late day can still do, at the night's edge beside the minutes that are lost; and what takes it back. */
export function DayAdvice({
  advice,
  undo,
  sendKey,
  zone,
}: {
  advice: AdviceShown | null
  undo: { readonly id: string; readonly n: number; readonly what: "moves" | "hold" } | null
  sendKey: string
  zone: string
}) {
  const late = advice ? advice.moves.filter((move) => !move.inTime).length : 0
  return (
    <div className="day-advice">
      {advice ? (
        <>
          <p className="hot">
            {say("advice.door", { door: advice.door, n: advice.missing })}
            {late > 0 ? ` ${say("advice.lost", { n: late })}` : ""}
          </p>
          {advice.take ? (
            <Act
              intent="advice"
              sends={{ fingerprint: advice.fingerprint, key: sendKey, kind: advice.take }}
              id="advice-form"
            >
              <button type="submit">
                <kbd>*</kbd>{" "}
                <span>{advice.take === "hands" ? adviceWords.hands(advice) : adviceWords.moves(advice, zone)}</span>
              </button>
            </Act>
          ) : (
            <p>{say("advice.none")}</p>
          )}
        </>
      ) : null}
      {undo ? (
        <Act intent="undo" sends={{ group: undo.id }}>
          <button type="submit">
            <span>{say(undo.what === "hold" ? "advice.undo-hold" : "advice.undo", { n: undo.n })}</span>
          </button>
        </Act>
      ) : null}
    </div>
  )
}
