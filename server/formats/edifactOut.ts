/** Segments of an EDIFACT interchange as they are written: ISO 9735, syntax version 3, character set UNOC (ISO 8859-1). */

type Component = string | number
/** A segment: its tag, then its data elements, each a component or several. */
export type SegmentOut = readonly [tag: string, ...elements: (Component | readonly Component[])[]]

/** Signs that mean something in an interchange are released; what the character set does not have becomes a question mark. */
const escaped = (text: Component): string =>
  String(text)
    .normalize("NFC")
    .replace(/[^\x20-\x7e\xa0-\xff]/g, "?")
    .replace(/[?+:']/g, "?$&")

/** Empty elements and components at the end are left out. */
function trimmed(parts: readonly string[]): readonly string[] {
  let end = parts.length
  while (end > 0 && parts[end - 1] === "") end -= 1
  return parts.slice(0, end)
}

const segment = ([tag, ...elements]: SegmentOut): string =>
  `${trimmed([
    tag,
    ...elements.map((element) =>
      (Array.isArray(element) ? trimmed(element.map(escaped)) : [escaped(element as Component)]).join(":"),
    ),
  ]).join("+")}'`

export interface InterchangeOut {
  readonly sender: string
  readonly receiver: string
  readonly at: Date
  /** Control reference of the interchange, up to 14 signs. */
  readonly reference: string
}

/** A text cut to parts of a length, no more than so many. */
export const inParts = (text: string, length: number, most: number): string[] =>
  (text.match(new RegExp(`.{1,${length}}`, "gsu")) ?? []).slice(0, most)

/**
 * One message in an interchange of its own: UNB, UNH, the segments, UNT with their number, UNZ.
 *
 * @param type such as `IFTMIN`; of directory D.01B
 */
export function interchange(
  type: string,
  body: readonly SegmentOut[],
  { sender, receiver, at, reference }: InterchangeOut,
): string {
  const stamp = at.toISOString().replace(/\D/g, "")
  return [
    "UNA:+.? '",
    segment(["UNB", ["UNOC", 3], sender, receiver, [stamp.slice(2, 8), stamp.slice(8, 12)], reference]),
    segment(["UNH", 1, [type, "D", "01B", "UN"]]),
    ...body.map(segment),
    // UNH and UNT count themselves
    segment(["UNT", body.length + 2, 1]),
    segment(["UNZ", 1, reference]),
  ].join("\r\n")
}
