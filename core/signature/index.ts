import { z } from "zod"

/** The field that a signature is written in; points are whole units of it, from its upper left corner. */
export const signatureSize = { width: 600, height: 200 } as const

/** As many points as a signature has at most; one that is written in ten seconds has fewer than a thousand. */
const mostPoints = 6_000
const within = (most: number) => z.number().int().min(0).max(most)

/** A signature as it was written: strokes of points, `[x, y]` each. Bounded, so that nothing endless is kept or drawn. */
export const strokesSchema = z
  .array(
    z
      .array(z.tuple([within(signatureSize.width), within(signatureSize.height)]))
      .min(1)
      .max(2_000),
  )
  .max(100)
  .refine((strokes) => strokes.reduce((sum, stroke) => sum + stroke.length, 0) <= mostPoints, "signature.too-long")
export type Strokes = z.infer<typeof strokesSchema>

/** Longest text that a signature is read from. */
const mostText = 120_000

/** The strokes that a form sends; empty where nothing was written, null where it is no signature. */
export function strokesFrom(text: string): Strokes | null {
  if (text.trim() === "") return []
  if (text.length > mostText) return null
  try {
    const read = strokesSchema.safeParse(JSON.parse(text))
    return read.success ? read.data : null
  } catch {
    return null
  }
}

const length = (stroke: Strokes[number]): number =>
  stroke.slice(1).reduce((sum, [x, y], at) => {
    const [px, py] = stroke[at] as [number, number]
    return sum + Math.hypot(x - px, y - py)
  }, 0)

/** Shortest line that counts as a signature, in units of the field: a cross of ten millimeters is one, a touch is none. */
const least = 60

/** Whether something was written that can be a signature, and not a touch. */
export const isSigned = (strokes: Strokes): boolean => strokes.reduce((sum, one) => sum + length(one), 0) >= least

/** The path of a stroke, as SVG writes it; a single point is a dot. */
export const strokePath = (stroke: Strokes[number]): string =>
  stroke.length === 1
    ? `M${stroke[0]?.join(" ")}l.1 0`
    : stroke.map(([x, y], at) => `${at === 0 ? "M" : "L"}${x} ${y}`).join("")

/** A signature as SVG, made from its points alone: nothing that was sent is in it as it came. */
export const signatureSvg = (strokes: Strokes): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${signatureSize.width} ${signatureSize.height}" width="300" height="100">` +
  `<path d="${strokes.map(strokePath).join("")}" fill="none" stroke="#1c1914" stroke-width="4" stroke-linecap="round" stroke-linejoin="round"/></svg>`
