import { type Reason, reason } from "../../refusal/index.ts"

/** A table of a tariff: names of columns, and cells as text. */
export interface TariffTable {
  readonly name: string
  readonly header: readonly string[]
  readonly rows: readonly (readonly string[])[]
}

/** What is wrong with a cell; `row` counts from 1 below the header, 0 is the header itself. */
export interface CellError {
  readonly row: number
  readonly column: string
  readonly value: string
  readonly why: Reason
}

/** What a cell may hold; answers what is wrong with it, or null. */
export type Check = (cell: string) => Reason | null

export interface Column {
  readonly name: string
  readonly check: Check
}

const pattern =
  (code: "figure" | "share" | "code" | "date" | "country" | "postal" | "days" | "json", expression: RegExp): Check =>
  (cell) =>
    expression.test(cell) ? null : reason(`cell.${code}`, { value: cell })

export const figureCell = pattern("figure", /^\d{1,9}(\.\d{1,6})?$/)
export const shareCell = pattern("share", /^(0(\.\d{1,6})?|1(\.0{1,6})?)$/)
export const codeCell = pattern("code", /^[A-Za-z0-9][A-Za-z0-9 ._/-]{0,31}$/)
export const dateCell = pattern("date", /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/)
export const countryCell = pattern("country", /^[A-Z]{2}$/)
export const postalCell = pattern("postal", /^[A-Z0-9]{0,10}$/)
export const daysCell = pattern("days", /^(\d|[1-9]\d|1[01]\d|120)$/)
export const optional =
  (check: Check): Check =>
  (cell) =>
    cell === "" ? null : check(cell)
export const oneOf =
  (values: readonly string[]): Check =>
  (cell) =>
    values.includes(cell) ? null : reason("cell.one-of", { value: cell, values: values.join(", ") })
export const jsonCell: Check = (cell) => {
  try {
    JSON.parse(cell)
    return null
  } catch {
    return reason("cell.json", { value: cell })
  }
}

/** The same column for each of several names, such as the zones of a service. */
export const columnsOf = (names: readonly string[], check: Check): Column[] => names.map((name) => ({ name, check }))

/** What is wrong with a table's header and cells, by cell. */
export function checkCells(columns: readonly Column[], { header, rows }: Omit<TariffTable, "name">): CellError[] {
  const errors: CellError[] = columns.flatMap((column) =>
    header.includes(column.name)
      ? []
      : [{ row: 0, column: column.name, value: "", why: reason("cell.no-column", { column: column.name }) }],
  )
  for (const name of header)
    if (!columns.some((column) => column.name === name))
      errors.push({ row: 0, column: name, value: name, why: reason("cell.other-column", { column: name }) })
  if (errors.length > 0) return errors
  if (rows.length === 0) return [{ row: 0, column: header[0] ?? "", value: "", why: reason("cell.no-rows") }]
  return rows.flatMap((row, at) => {
    if (row.length !== header.length)
      return [
        {
          row: at + 1,
          column: header[Math.min(row.length, header.length - 1)] ?? "",
          value: "",
          why: reason("cell.row-length", { has: row.length, wants: header.length }),
        },
      ]
    return header.flatMap((name, index) => {
      const value = row[index] as string
      const why = columns.find((column) => column.name === name)?.check(value) ?? null
      return why ? [{ row: at + 1, column: name, value, why }] : []
    })
  })
}

/** Rows as objects by column, in the columns' own order whatever the header's. */
export const records = ({ header, rows }: Omit<TariffTable, "name">): Record<string, string>[] =>
  rows.map((row) => Object.fromEntries(header.map((name, at) => [name, row[at] as string])))
