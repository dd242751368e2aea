import { type ColumnDef, createSortedRowModel, rowSortingFeature, tableFeatures, useTable } from "@tanstack/react-table"
import { ArrowDown, ArrowUp } from "lucide-react"
import { type ReactNode, type Ref, useMemo } from "react"

const features = tableFeatures({ rowSortingFeature, sortedRowModel: createSortedRowModel() })

export interface TableColumn<Row extends object> {
  readonly name: string
  readonly head: ReactNode
  readonly cell: (row: Row) => ReactNode
  /** What it is sorted by; without it, by the text or figure that the cell shows, or not at all. */
  readonly by?: (row: Row) => string | number
  readonly className?: string | ((row: Row) => string | undefined)
  /** The cell that names its row. */
  readonly heads?: boolean
}

/** Figures by size, texts as people read them: R9 before R10. */
const compare = (a: string | number, b: string | number): number =>
  typeof a === "number" && typeof b === "number"
    ? a - b
    : String(a).localeCompare(String(b), undefined, { numeric: true, sensitivity: "base" })

/**
 * A table of rows under their heads. A head by which rows can be ordered is a button: once upwards, again downwards, a
 * third time back to how they came.
 */
export function Table<Row extends object>({
  caption,
  title,
  columns,
  rows,
  rowKey,
  rowClass,
  className = "rows",
  sorts = true,
  headless = false,
  ref,
}: {
  /** What the table holds, for those who do not see the heading above it. */
  caption?: string
  /** The same where it is the heading itself. */
  title?: string
  columns: readonly TableColumn<Row>[]
  rows: readonly Row[]
  rowKey: (row: Row) => string | number
  rowClass?: (row: Row) => string | undefined
  className?: string
  /** False where the order of the rows says something by itself, or where there are more than are shown. */
  sorts?: boolean
  /** Without heads, where each cell says what it is. */
  headless?: boolean
  ref?: Ref<HTMLTableElement>
}) {
  const sortable = sorts && !headless
  const defs = useMemo(
    () =>
      columns.map(
        (one): ColumnDef<typeof features, Row> => ({
          id: one.name,
          ...(sortable ? sorting(one, rows) : unsorted),
        }),
      ),
    [columns, rows, sortable],
  )
  const data = useMemo(() => [...rows], [rows])
  const table = useTable({ features, columns: defs, data })
  return (
    <table className={className} ref={ref}>
      {title ? <caption>{title}</caption> : caption ? <caption className="sr-only">{caption}</caption> : null}
      {headless ? null : (
        <thead>
          <tr>
            {table.getFlatHeaders().map((header, at) => (
              <Head
                key={header.id}
                of={columns[at] as TableColumn<Row>}
                sorted={header.column.getIsSorted()}
                onSort={header.column.getCanSort() ? header.column.getToggleSortingHandler() : undefined}
              />
            ))}
          </tr>
        </thead>
      )}
      <tbody>
        {table.getRowModel().rows.map(({ original: row }) => (
          <tr key={rowKey(row)} className={rowClass?.(row)}>
            {columns.map((one) =>
              one.heads ? (
                <th key={one.name} scope="row" className={classOf(one, row)}>
                  {one.cell(row)}
                </th>
              ) : (
                <td key={one.name} className={classOf(one, row)}>
                  {one.cell(row)}
                </td>
              ),
            )}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

const classOf = <Row extends object>({ className }: TableColumn<Row>, row: Row): string | undefined =>
  typeof className === "function" ? className(row) : className

/** How a column is sorted; one whose cells show neither text nor figures, and that says no more, is not. */
function sorting<Row extends object>(column: TableColumn<Row>, rows: readonly Row[]) {
  const shown = (row: Row): string | number => {
    const cell = column.cell(row)
    return typeof cell === "number" ? cell : typeof cell === "string" ? asFigure(cell) : ""
  }
  const by = column.by ?? (rows.every((row) => /^(string|number)$/.test(typeof column.cell(row))) ? shown : null)
  return by
    ? {
        accessorFn: by,
        sortDescFirst: false,
        sortFn: (a: { original: Row }, b: { original: Row }) => compare(by(a.original), by(b.original)),
      }
    : unsorted
}

const unsorted = { enableSorting: false, accessorFn: () => "" }

const asFigure = (text: string): string | number => (/^-?\d+(\.\d+)?$/.test(text) ? Number(text) : text)

function Head<Row extends object>({
  of,
  sorted,
  onSort,
}: {
  of: TableColumn<Row>
  sorted: false | "asc" | "desc"
  onSort: ((event: unknown) => void) | undefined
}) {
  return (
    <th
      scope="col"
      className={typeof of.className === "string" ? /figure|tick/.exec(of.className)?.[0] : undefined}
      aria-sort={sorted ? (sorted === "asc" ? "ascending" : "descending") : undefined}
    >
      {onSort ? (
        <button type="button" className="sort" onClick={onSort}>
          {of.head}
          {sorted === "asc" ? <ArrowUp size={13} aria-hidden /> : null}
          {sorted === "desc" ? <ArrowDown size={13} aria-hidden /> : null}
        </button>
      ) : (
        of.head
      )}
    </th>
  )
}
