/** Forms in which a parcel label is printed; one for each printer, remembered there. */
export const labelForms = ["4x6", "letter", "half-letter", "letter-slip", "a4", "a5", "a6"] as const
export type LabelForm = (typeof labelForms)[number]

/** A form by its name; a 4 × 6 in label where it has none that is known. */
export const labelFormOf = (name: string): LabelForm => labelForms.find((one) => one === name) ?? "4x6"

/** Points in an inch and a millimetre. */
const inch = 72
const mm = 72 / 25.4

/** A place of a label on its sheet, in points from the sheet's upper left corner to that of the label as it lies. */
export interface LabelPlace {
  readonly x: number
  readonly y: number
  /** A quarter turn clockwise. */
  readonly turned: boolean
}

export interface LabelSheet {
  /** The medium, as PWG 5101.1 names it. */
  readonly media: string
  readonly width: number
  readonly height: number
  /** The label itself; on A6 it is drawn lower, since 6 in are longer than that sheet. */
  readonly label: { readonly width: number; readonly height: number }
  readonly places: readonly LabelPlace[]
  /** Where a packing slip has room, from this height to the lower edge; null: none. */
  readonly slipFrom: number | null
}

const letter = { width: 8.5 * inch, height: 11 * inch, media: "na_letter_8.5x11in" }
const label = { width: 4 * inch, height: 6 * inch }
const centred = (sheet: { width: number }, wide: number) => (sheet.width - wide) / 2

/**
 * Sheets by form. The label is the same in all of them and is never scaled, so that its bars keep their widths; on half
 * sheets it lies on its side.
 */
export const labelSheets: Readonly<Record<LabelForm, LabelSheet>> = {
  "4x6": { ...label, media: "na_index-4x6_4x6in", label, places: [{ x: 0, y: 0, turned: false }], slipFrom: null },
  letter: {
    ...letter,
    label,
    places: [{ x: centred(letter, label.width), y: inch / 2, turned: false }],
    slipFrom: null,
  },
  "half-letter": {
    ...letter,
    label,
    places: [0, 5.5 * inch].map((y) => ({ x: centred(letter, label.height), y: y + 0.75 * inch, turned: true })),
    slipFrom: null,
  },
  "letter-slip": {
    ...letter,
    label,
    places: [{ x: centred(letter, label.height), y: 0.75 * inch, turned: true }],
    slipFrom: 5.5 * inch,
  },
  a4: {
    width: 210 * mm,
    height: 297 * mm,
    media: "iso_a4_210x297mm",
    label,
    places: [{ x: centred({ width: 210 * mm }, label.width), y: 15 * mm, turned: false }],
    slipFrom: null,
  },
  a5: {
    width: 148 * mm,
    height: 210 * mm,
    media: "iso_a5_148x210mm",
    label,
    places: [{ x: centred({ width: 148 * mm }, label.width), y: (210 * mm - label.height) / 2, turned: false }],
    slipFrom: null,
  },
  a6: {
    width: 105 * mm,
    height: 148 * mm,
    media: "iso_a6_105x148mm",
    label: { width: label.width, height: 148 * mm },
    places: [{ x: centred({ width: 105 * mm }, label.width), y: 0, turned: false }],
    slipFrom: null,
  },
}

/**
 * The form that a label is drawn in on a printer: the first that is wanted of those on the medium that the printer is set
 * up for, with its place among the wanted; the printer's own (null) where none is.
 */
export function formOn(
  printer: LabelForm,
  wanted: readonly string[],
): { readonly form: LabelForm; readonly wanted: number | null } {
  const { media } = labelSheets[printer]
  const at = wanted.findIndex((name) => labelForms.some((one) => one === name && labelSheets[one].media === media))
  return at < 0 ? { form: printer, wanted: null } : { form: labelFormOf(wanted[at] ?? ""), wanted: at }
}

/** Labels that lie on one sheet of a form. */
export const labelsOnSheet = (form: LabelForm): number => labelSheets[form].places.length

/**
 * Labels as they come onto sheets: each sheet the places of its labels. A sheet that is begun has its first half used.
 *
 * @example sheetsOf("half-letter", 3, true) // [[1], [0, 1]]: places on each sheet
 */
export function sheetsOf(form: LabelForm, labels: number, begun = false): number[][] {
  const places = labelsOnSheet(form)
  const sheets: number[][] = []
  let at = begun && places > 1 ? 1 : 0
  for (let n = 0; n < labels; n += 1) {
    if (at === 0 || sheets.length === 0) sheets.push([])
    sheets.at(-1)?.push(at)
    at = (at + 1) % places
  }
  return sheets
}
