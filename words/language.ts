/** Languages that Varnok speaks; a message that has no words in one is said in English. */
export const languages = ["en", "de"] as const
/** French is for papers alone. */
export type Language = (typeof languages)[number] | "fr"

/** How a person reads times of the day: `14:15` or `2:15 PM`. */
export const clocks = ["24", "12"] as const
export type ClockStyle = (typeof clocks)[number]

/** The language and manner of writing in which somebody is told something. */
export interface Reader {
  readonly language: Language
  readonly clock: ClockStyle
}

export const usualReader: Reader = { language: "en", clock: "24" }

let source: () => Reader = () => usualReader

/** Who is being told just now: on the server the request's actor, in the browser whoever is signed in. */
export const reader = (): Reader => source()

/** Says where the reader is found; set once by the server's and once by the browser's entry. */
export function readersFrom(found: () => Reader): void {
  source = found
}

/** The locale by which `Intl` writes numbers and days for a language. */
export const localeOf: Readonly<Record<Language, string>> = { en: "en-US", de: "de-DE", fr: "fr-FR" }

export const asLanguage = (text: string | null | undefined): Language =>
  languages.find((one) => one === text) ?? usualReader.language
export const asClock = (text: string | null | undefined): ClockStyle =>
  clocks.find((one) => one === text) ?? usualReader.clock
