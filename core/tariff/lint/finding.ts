import type { FiguresOf, MessageKey } from "words/catalogue.ts"
import { type Reason, reasonOf } from "../../refusal/index.ts"

/** A place in a tariff document: names and positions from the outside in, such as `["services", 2, "price", "rows", 5]`. */
export type Path = readonly (string | number)[]

/** What the linter found: an error prices something wrongly or refuses it; a warning is worth a look. */
export interface Finding {
  readonly level: "error" | "warning"
  readonly path: Path
  readonly why: Reason
}

/** What follows a code of the linter's: the figures that its message needs. */
type LintCode = MessageKey extends infer Key ? (Key extends `lint.${infer Code}` ? Code : never) : never
type Finds = <Code extends LintCode>(
  path: Path,
  code: Code,
  ...values: keyof FiguresOf<`lint.${Code}`> extends never ? [] : [FiguresOf<`lint.${Code}`>]
) => Finding

const finding = (level: Finding["level"]): Finds =>
  ((path: Path, code: string, values: Record<string, string | number> = {}): Finding => ({
    level,
    path,
    why: reasonOf(`lint.${code}`, values),
  })) as unknown as Finds

export const wrong = finding("error")
export const odd = finding("warning")

/** Positions at which a list of figures does not rise. */
export const notRising = (figures: readonly string[]): number[] =>
  figures.flatMap((figure, at) => (at > 0 && Number(figure) <= Number(figures[at - 1]) ? [at] : []))
