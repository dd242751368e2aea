import { lintTariff, type Path, readTariff, type Tariff, type TariffTable, withTable } from "core/tariff/index.ts"
import { findNodeAtLocation, type Node, parseTree } from "jsonc-parser"
import { sayReason } from "words/reasons.ts"

/** What is wrong or odd in the text of an editor, and where it stands there. */
export interface Mark {
  readonly level: "error" | "warning"
  /** Signs of the text from the beginning; both 0 where it stands nowhere in it. */
  readonly from: number
  readonly to: number
  /** Its place in the document, or the row and column of a table. */
  readonly place: string
  readonly words: string
}

export interface Linted {
  /** The tariff that the text makes; null where it makes none. */
  readonly tariff: Tariff | null
  readonly marks: readonly Mark[]
}

/** The innermost node at a path, or of as much of the path as is there. */
function nodeAt(tree: Node | undefined, path: Path): Node | undefined {
  if (!tree) return undefined
  for (let length = path.length; length >= 0; length -= 1) {
    const node = findNodeAtLocation(tree, path.slice(0, length) as (string | number)[])
    if (node) return node
  }
  return tree
}

/** A place of a document as people read it: `services LKG, price, rows, 12`. */
export function placeWords(tariff: Tariff | null, path: Path): string {
  const [first, at, ...rest] = path
  const code = first === "services" && typeof at === "number" ? tariff?.services[at]?.code : undefined
  return (code ? [code, ...rest] : path).join(", ")
}

/** Where a flaw's node stands; a whole branch is marked at its first line only. */
function span(text: string, tree: Node | undefined, path: Path): { from: number; to: number } {
  const node = nodeAt(tree, path)
  if (!node) return { from: 0, to: 0 }
  const line = text.indexOf("\n", node.offset)
  return { from: node.offset, to: Math.min(node.offset + node.length, line < 0 ? text.length : line) }
}

/** Reads and lints a whole document. */
export function lintDocument(text: string): Linted {
  const read = readTariff(text)
  const tree = parseTree(text)
  const tariff = read.ok ? read.tariff : null
  const found = read.ok ? lintTariff(read.tariff) : read.flaws.map((flaw) => ({ ...flaw, level: "error" as const }))
  return {
    tariff,
    marks: found.map(({ level, path, why }) => ({
      level,
      ...span(text, tree, path),
      place: placeWords(tariff, path),
      words: sayReason(why),
    })),
  }
}

/** Where a finding's row stands in the text of its own table; nowhere for what is found elsewhere. */
function rowOf(
  tariff: Tariff,
  table: string,
  path: Path,
  line: (row: number) => { from: number; to: number },
): { from: number; to: number } {
  const [first, at] = path
  const code = first === "services" && typeof at === "number" ? tariff.services[at]?.code : null
  const row = path[path.indexOf("rows") + 1]
  const own = code
    ? table === `rates.${code}` && path[3] === "rows"
    : table === `fuel.${at}` && typeof path[3] === "number"
  const number = code ? row : path[3]
  return own && typeof number === "number" ? line(number + 1) : { from: 0, to: 0 }
}

/**
 * Reads one table of a tariff from rows of cells and lints the tariff with it. What the linter finds elsewhere in the
 * tariff is told without a place in the text.
 *
 * @param starts position in the text at which each row begins, the header first
 */
export function lintTable(base: Tariff, table: TariffTable, starts: readonly number[], length: number): Linted {
  const line = (row: number) => {
    const from = starts[row] ?? 0
    return { from, to: Math.max(from, (starts[row + 1] ?? length + 1) - 1) }
  }
  const answer = withTable(base, table)
  if (!answer.ok)
    return {
      tariff: null,
      marks: answer.cells.map(({ row, column, why }) => ({
        level: "error",
        ...line(row),
        place: row === 0 ? column : `${row}, ${column}`,
        words: sayReason(why),
      })),
    }
  return {
    tariff: answer.tariff,
    marks: lintTariff(answer.tariff).map(({ level, path, why }) => ({
      level,
      ...rowOf(answer.tariff, table.name, path, line),
      place: placeWords(answer.tariff, path),
      words: sayReason(why),
    })),
  }
}
