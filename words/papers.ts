import { type Say, sayIn } from "./index.ts"
import { type Language, localeOf } from "./language.ts"

/** Languages that papers for customers are written in. */
export const paperLanguages = ["en", "fr", "de"] as const
export type PaperLanguage = (typeof paperLanguages)[number]

/** The language of our own papers, such as pick lists and manifests. */
export const paperLanguage: Language = "en"

/** Words of our own papers. */
export const onPaper: Say = sayIn(paperLanguage)

/** Figures as they come: text or a decimal number, never a binary fraction that was computed. */
type Figure = string | { toFixed(digits?: number): string }

/** How a paper in one language says things. */
export interface PaperWords {
  readonly language: PaperLanguage
  readonly say: Say
  /** A day of the calendar, such as `Nov 24, 2026`. */
  readonly date: (day: string) => string
  /** A figure with its language's separators, to so many digits; as many as it has where none are given. */
  readonly figure: (value: Figure, digits?: number) => string
  /** An amount with its currency after it. */
  readonly money: (amount: string, currency: string) => string
  readonly country: (code: string) => string
}

const known = new Map<PaperLanguage, PaperWords>()

/** Papers in a language; one that there is none of is English. */
export function paperWords(language: string): PaperWords {
  const own = paperLanguages.find((one) => one === language) ?? "en"
  const had = known.get(own)
  if (had) return had
  const locale = localeOf[own]
  const days = new Intl.DateTimeFormat(locale, { dateStyle: "medium", timeZone: "UTC" })
  const countries = new Intl.DisplayNames([locale], { type: "region" })
  // made once for each number of digits: a long invoice has thousands of figures
  const formats = new Map<number, Intl.NumberFormat>()
  const figuresOf = (decimals: number): Intl.NumberFormat => {
    const had = formats.get(decimals)
    if (had) return had
    const format = new Intl.NumberFormat(locale, { minimumFractionDigits: decimals, maximumFractionDigits: decimals })
    formats.set(decimals, format)
    return format
  }
  const figure = (value: Figure, digits?: number): string => {
    const text = typeof value === "string" ? value : value.toFixed(digits)
    const decimals = digits ?? text.split(".")[1]?.length ?? 0
    // as text: Intl takes it digit by digit, however long it is
    return figuresOf(decimals).format(text as unknown as number)
  }
  const made: PaperWords = {
    language: own,
    say: sayIn(own),
    date: (day) => (/^\d{4}-\d\d-\d\d$/.test(day) ? days.format(new Date(`${day}T00:00:00Z`)) : day),
    figure,
    money: (amount, currency) => `${figure(amount)} ${currency}`,
    country: (code) => {
      try {
        return countries.of(code) ?? code
      } catch {
        return code
      }
    },
  }
  known.set(own, made)
  return made
}

export const englishPapers: PaperWords = paperWords("en")
