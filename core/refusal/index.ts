import type { FiguresOf, MessageKey } from "words/catalogue.ts"

/**
 * Something that was refused, or a reason why a figure is what it is, as data: a stable code and the figures that
 * belong to it, as text. The interface puts it into words (`words`), so core and server carry no sentences.
 *
 * @example { code: "weight.over", values: { weight: "153 lb", limit: "150 lb" } }
 */
export interface Reason {
  readonly code: string
  readonly values: Readonly<Record<string, string>>
}

/** The answer of a function that may refuse: a value, or at least one reason. */
export type Outcome<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly reasons: readonly Reason[] }

/**
 * A reason by the key of its message, with all figures that the message needs: an unknown key or a missing figure does
 * not compile. Further figures may be kept for whoever acts on the reason.
 */
export const reason: Reasoning = ((code: string, values: Record<string, string | number> = {}): Reason =>
  reasonOf(code, values)) as unknown as Reasoning

type Reasoning = <Code extends MessageKey>(
  code: Code,
  ...figures: MessageKey extends Code
    ? [figures?: Figures]
    : keyof FiguresOf<Code> extends never
      ? [figures?: Figures]
      : [figures: FiguresOf<Code> & Figures]
) => Reason
type Figures = Readonly<Record<string, string | number>>

/** A reason whose code came as data, such as one that was kept in the database. */
export const reasonOf = (code: string, values: Figures = {}): Reason => ({
  code,
  values: Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value)])),
})

export const accepted = <T>(value: T): Outcome<T> => ({ ok: true, value })

export const refused = (...reasons: Reason[]): { ok: false; reasons: Reason[] } => ({ ok: false, reasons })

/** A reason as text, for where only a text goes: an error's message, a job's trouble, a figure of another reason. */
export const coded = ({ code, values }: Reason): string =>
  JSON.stringify(Object.keys(values).length > 0 ? { code, values } : { code })

/** The reason in a text that `coded` made, or null where it is an ordinary text. */
export function decoded(text: string): Reason | null {
  if (!text.startsWith('{"code":"')) return null
  try {
    const { code, values = {} } = JSON.parse(text) as Partial<Reason>
    return typeof code === "string" ? reasonOf(code, values) : null
  } catch {
    return null
  }
}
