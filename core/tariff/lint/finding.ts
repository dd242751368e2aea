import { type Reason, reason } from "../../refusal/index.ts"

/** A place in a tariff document: names and positions from the outside in, such as `["services", 2, "price", "rows", 5]`. */
export type Path = readonly (string | number)[]

/** What the linter found: an error prices something wrongly or refuses it; a warning is worth a look. */
export interface Finding {
  readonly level: "error" | "warning"
  readonly path: Path
  readonly why: Reason
}

type Values = Record<string, string | number>
export const wrong = (path: Path, code: string, values: Values = {}): Finding => ({
  level: "error",
  path,
  why: reason(`lint.${code}`, values),
})
export const odd = (path: Path, code: string, values: Values = {}): Finding => ({
  ...wrong(path, code, values),
  level: "warning",
})

/** Positions at which a list of figures does not rise. */
export const notRising = (figures: readonly string[]): number[] =>
  figures.flatMap((figure, at) => (at > 0 && Number(figure) <= Number(figures[at - 1]) ? [at] : []))
