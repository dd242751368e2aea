import { instantAt, type LocalTime } from "core/calendar/index.ts"
import { describe, expect, it } from "vitest"
import { toldGroup } from "../parts/groupAnswer.ts"
import { type AdviceShown, adviceWords } from "./DayAdvice.tsx"

const zone = "America/Chicago"
const move = (door: string, time: LocalTime, sameDay = true) => ({
  orderNumber: "48231",
  door,
  cutOff: instantAt(sameDay ? "2026-11-24" : "2026-11-25", time, zone),
  sameDay,
  inTime: true,
})
const advice = (more: Partial<AdviceShown> = {}): AdviceShown => ({
  collectionId: 4,
  door: "4",
  missing: 3,
  lost: 0,
  moves: [move("1", "16:00"), move("1", "16:00"), move("1", "16:00")],
  dearer: "6.20",
  hands: { more: 1, cost: "44.00" },
  currency: "USD",
  take: "move",
  fingerprint: "x",
  ...more,
})

describe("the way out in words", () => {
  it("names the door, its time and what it costs", () => {
    expect(adviceWords.moves(advice(), zone)).toBe("Move 3 to door 1, 16:00 today, +$6.20")
    expect(adviceWords.moves(advice({ dearer: "0.00" }), zone)).toBe(
      "Move 3 to door 1, 16:00 today, for the same price",
    )
    expect(adviceWords.moves(advice({ dearer: "-1.50", currency: "CHF" }), zone)).toBe(
      "Move 3 to door 1, 16:00 today, −1.50 CHF",
    )
  })
  it("names several doors, and another day", () => {
    const moves = [move("1", "16:00"), move("6", "17:10")]
    expect(adviceWords.moves(advice({ moves }), zone)).toBe("Move 2 to doors 1, 6, today, +$6.20")
    const tomorrow = [move("4", "14:15", false)]
    expect(adviceWords.moves(advice({ moves: tomorrow }), zone)).toBe("Move 1 to door 4, 14:15 another day, +$6.20")
    // the same door on two days is two trucks
    expect(adviceWords.moves(advice({ moves: [...moves.slice(0, 1), move("1", "16:00", false)] }), zone)).toBe(
      "Move 2 to doors 1, another day, +$6.20",
    )
  })
  it("says so where there is none", () => {
    expect(adviceWords.moves(advice({ moves: [] }), zone)).toContain("No later truck")
    expect(adviceWords.hands(advice({ hands: null }))).toBe("")
  })
  it("counts hands, with what they cost where that is known", () => {
    expect(adviceWords.hands(advice())).toBe("1 more person would make it, +$44.00")
    expect(adviceWords.hands(advice({ hands: { more: 3, cost: null } }))).toBe("3 more people would make it")
  })
})

describe("what became of many", () => {
  const reasons = [{ code: "order.is-cancelled", values: {} }]
  it("is the count, and how many were so already", () => {
    const { answer } = toldGroup("group.done", { changed: 4, same: 2, refused: [] })
    expect(answer.refused).toBe(false)
    expect(answer.words).toMatch(/^4 changed\. .*2/)
  })
  it("names the first four that could not be changed, and how many more", () => {
    const refused = ["1", "2", "3", "4", "5", "6"].map((orderNumber) => ({ orderNumber, reasons }))
    const { answer } = toldGroup("group.undone", { changed: 0, same: 0, refused })
    expect(answer.refused).toBe(true)
    expect(answer.words).toContain("4: ")
    expect(answer.words).not.toContain("5: ")
    expect(answer.words).toContain("2 more")
  })
})
