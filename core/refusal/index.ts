/**
 * Something that was refused, or a reason why a figure is what it is, as data: a stable code and the figures that
 * belong to it, as text. The interface puts it into words (`app/messages`), so core and server carry no sentences.
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

export const reason = (code: string, values: Record<string, string | number> = {}): Reason => ({
  code,
  values: Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value)])),
})

export const accepted = <T>(value: T): Outcome<T> => ({ ok: true, value })

export const refused = (...reasons: Reason[]): { ok: false; reasons: Reason[] } => ({ ok: false, reasons })
