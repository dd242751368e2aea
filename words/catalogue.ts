import { en } from "./en/index.ts"
import type { Figures } from "./icu.ts"

/** The English catalog is the whole one: its keys and placeholders are those of every language. */
export type Catalogue = typeof en
export type MessageKey = keyof Catalogue

/** The figures that a message needs; of one of several messages, those that any of them needs. */
export type FiguresOf<Key extends MessageKey> = Both<Key extends MessageKey ? Table[Key] : never>
/** Each message's figures, read when they are first asked for. */
type Table = { readonly [Key in MessageKey]: Figures<Catalogue[Key]> }
type Both<Union> = (Union extends unknown ? (one: Union) => void : never) extends (all: infer All) => void ? All : never

/**
 * What follows a key: nothing where its message needs nothing. (Where a key is unknown the type checker asks for all of
 * them at once; it is then answered quickly, since the key is the error.)
 */
export type With<Key extends MessageKey> = MessageKey extends Key
  ? [figures?: Readonly<Record<string, string | number>>]
  : keyof FiguresOf<Key> extends never
    ? [figures?: Record<string, never>]
    : [figures: FiguresOf<Key>]

/** Words of another language: some or all of the keys, each with the same placeholders as in English. */
export type Translation<Words> = {
  readonly [Key in keyof Words]: Key extends MessageKey
    ? Words[Key] extends string
      ? keyof Figures<Words[Key]> extends keyof Figures<Catalogue[Key]>
        ? keyof Figures<Catalogue[Key]> extends keyof Figures<Words[Key]>
          ? Words[Key]
          : `a placeholder is missing: ${Catalogue[Key]}`
        : `a placeholder is not in: ${Catalogue[Key]}`
      : never
    : `no such key: ${Key & string}`
}

/** Takes the words of another language as they are; a wrong key or placeholder does not compile. */
export const translation = <const Words extends Readonly<Record<string, string>>>(
  words: Words & Translation<Words>,
): Readonly<Record<string, string>> => words

export const english: Readonly<Record<string, string>> = en
export const isMessageKey = (key: string): key is MessageKey => Object.hasOwn(en, key)
