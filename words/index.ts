import { IntlMessageFormat } from "intl-messageformat"
import { english, isMessageKey, type MessageKey, type With } from "./catalogue.ts"
import { de } from "./de/index.ts"
import { fr } from "./fr/index.ts"
import { type Language, localeOf, reader } from "./language.ts"

export type { FiguresOf, MessageKey, With } from "./catalogue.ts"

export type Values = Readonly<Record<string, string | number>>

const catalogues: Readonly<Record<Language, Readonly<Record<string, string>>>> = { en: english, de, fr }

/** A message by its key with its figures. An unknown key, or a figure missing or too many, does not compile. */
export type Say = <Key extends MessageKey>(key: Key, ...figures: With<Key>) => string

// through `unknown`: comparing the signatures would have the type checker read all messages at once
const saying = (language: () => Language): Say =>
  ((key: MessageKey, figures: Values = {}) => written(language(), key, figures)) as unknown as Say

/** A message to whoever is being told just now. */
export const say = saying(() => reader().language)

/** A message in a language of one's own choice, for papers and letters. */
export const sayIn = (language: Language): Say => saying(() => language)

/**
 * A message whose key came as data, such as a reason kept in the database: in words, or null where it has none. Text
 * that stands for a number is counted as one.
 */
export function sayCode(code: string, values: Values = {}, language = reader().language): string | null {
  return isMessageKey(code) ? written(language, code, values) : null
}

const formats = new Map<string, IntlMessageFormat>()

function written(language: Language, key: MessageKey, values: Values): string {
  const own = catalogues[language][key]
  const [text, spoken] = own === undefined ? [english[key] as string, "en" as const] : [own, language]
  if (!counts.test(text)) return text.replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ""))
  const known = `${spoken} ${key}`
  let format = formats.get(known)
  if (!format) {
    format = new IntlMessageFormat(text, localeOf[spoken], undefined, { ignoreTag: true })
    formats.set(known, format)
  }
  return String(format.format(numbered(text, values)))
}
const counts = /, (?:plural|select),/

/** What a plural counts as a number, also where it was kept as text; what an old record does not have, as nothing. */
function numbered(text: string, values: Values): Values {
  const named = [...text.matchAll(/\{(\w+)(?:\}|, (plural|select),)/g)].map(([, name = "", kind]) => {
    const value = values[name] ?? ""
    return [name, kind === "plural" ? Number(value) : value] as const
  })
  // a name that is both counted and written is counted: a number is written as it is
  return Object.fromEntries(named.sort(([, a], [, b]) => Number(typeof a === "number") - Number(typeof b === "number")))
}
