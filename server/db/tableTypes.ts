import type { Knex } from "knex"

interface ColumnRow {
  readonly table: string
  readonly name: string
  readonly type: string
  readonly full: string
  readonly nullable: "YES" | "NO"
  readonly preset: string | null
  readonly extra: string
  /** The table whose rows the column names. */
  readonly refersTo: string | null
}

/** What the driver gives for a column, by the types that its connection is set up with (`connection.ts`). */
function readAs({ name, type, full, refersTo }: ColumnRow): string {
  if (type === "enum")
    return [...full.matchAll(/'((?:[^']|'')*)'/g)].map((match) => JSON.stringify(match[1])).join(" | ")
  if (full === "tinyint(1)") return "Flag"
  if (/int$/.test(type)) return refersTo ? `Id<"${refersTo}">` : "number"
  if (/^(double|float)$/.test(type)) return "number"
  if (/^(datetime|timestamp)$/.test(type)) return "Date"
  if (/(blob|binary)$/.test(type)) return "Buffer"
  if (isJson({ type, full })) return "unknown"
  if (type === "date") return "LocalDate"
  if (full === "char(5)" && /^(starts|ends|cut_off)$/.test(name)) return "LocalTime"
  // decimals keep their figures as text
  return "string"
}

/** MariaDB keeps JSON as long text in a collation of its own; the driver gives it parsed or as text (`parsed`). */
const isJson = (column: Pick<ColumnRow, "type" | "full">): boolean =>
  column.type === "longtext" && column.full === "json"

/** What may be written into a column besides what is read from it. */
function writtenAs(column: ColumnRow): string {
  const read = readAs(column)
  if (column.type === "bigint") return `${read} | string`
  if (column.type === "decimal") return `${read} | number`
  if (column.type === "date") return `${read} | Date`
  if (isJson(column)) return "string"
  return read
}

/**
 * The types of all tables as Knex takes them, from the schema of a migrated database: `npm run tables` writes them to
 * `tables.ts`, and a test holds them to the schema.
 */
export async function tableTypes(db: Knex): Promise<string> {
  const [columns] = (await db.raw(
    `SELECT c.TABLE_NAME AS \`table\`, c.COLUMN_NAME AS name, c.DATA_TYPE AS type,
       IF(c.DATA_TYPE = 'longtext' AND EXISTS (SELECT 1 FROM information_schema.CHECK_CONSTRAINTS k
         WHERE k.CONSTRAINT_SCHEMA = c.TABLE_SCHEMA AND k.TABLE_NAME = c.TABLE_NAME
         AND k.CHECK_CLAUSE = CONCAT('json_valid(\`', c.COLUMN_NAME, '\`)')), 'json', c.COLUMN_TYPE) AS full,
       c.IS_NULLABLE AS nullable, c.COLUMN_DEFAULT AS preset, c.EXTRA AS extra,
       (SELECT MIN(f.REFERENCED_TABLE_NAME) FROM information_schema.KEY_COLUMN_USAGE f
         WHERE f.TABLE_SCHEMA = c.TABLE_SCHEMA AND f.TABLE_NAME = c.TABLE_NAME AND f.COLUMN_NAME = c.COLUMN_NAME
         AND f.REFERENCED_TABLE_NAME IS NOT NULL) AS refersTo
     FROM information_schema.COLUMNS c
     WHERE c.TABLE_SCHEMA = DATABASE() AND c.TABLE_NAME NOT LIKE 'knex\\_%'
     ORDER BY c.TABLE_NAME, c.ORDINAL_POSITION`,
  )) as [ColumnRow[]]
  const names = new Set(columns.map((column) => column.table))
  const tables = new Map<string, ColumnRow[]>()
  for (const column of columns)
    tables.set(column.table, [
      ...(tables.get(column.table) ?? []),
      { ...column, refersTo: column.refersTo ?? referred(column, names) },
    ])
  const row = [...tables].map(
    ([table, all]) =>
      `export interface ${typeName(table)} {\n${all
        .map((one) => `  ${one.name}: ${readAs(one)}${one.nullable === "YES" ? " | null" : ""}`)
        .join("\n")}\n}\n`,
  )
  const inserted = [...tables].map(
    ([table, all]) =>
      `export interface New${typeName(table)} {\n${all
        .map((one) => {
          const open = one.nullable === "YES" || one.preset !== null || /auto_increment|GENERATED/i.test(one.extra)
          return `  ${one.name}${open ? "?" : ""}: ${writtenAs(one)}${one.nullable === "YES" ? " | null" : ""}`
        })
        .join("\n")}\n}\n`,
  )
  const known = [...tables.keys()].map(
    (table) =>
      `    ${table}: Knex.CompositeTableType<${typeName(table)}, New${typeName(table)}, Changed<New${typeName(table)}>>`,
  )
  return `// written by \`npm run tables\` from the migrated schema; not by hand\nimport type { LocalDate, LocalTime } from "core/calendar/index.ts"\nimport type { Id } from "core/ids/index.ts"\nimport type { Knex } from "knex"\n\n/** Read as 0 or 1; written and asked for as true or false as well. */\nexport type Flag = 0 | 1 | boolean\n\n/** What a row is changed to: a value, or what the database works out. */\ntype Changed<Row> = { [Column in keyof Row]?: Row[Column] | Knex.Raw | Knex.QueryBuilder }\n\n${row.join("\n")}\n${inserted.join(
    "\n",
  )}\ndeclare module "knex/types/tables.js" {\n  interface Tables {\n${known.join("\n")}\n  }\n}\n`
}

/** `sales_order` is SalesOrderRow. */
const typeName = (table: string): string =>
  `${table
    .split("_")
    .map((part) => `${part[0]?.toUpperCase()}${part.slice(1)}`)
    .join("")}Row`

/** Columns that refer to a table by another name than the table's, and without a foreign key. */
const otherNames: Readonly<Record<string, string>> = {
  address_id: "address_book",
  bought_by_id: "user",
  change_id: "group_change",
  chosen_collection_id: "collection",
  chosen_service_id: "service",
  came_to_id: "warehouse",
  fallback_id: "printer",
  form_id: "closing_form",
  intake_id: "intake_file",
  intent_id: "buy_intent",
  joined_to_id: "sales_order",
  label_document_id: "document",
  missed_id: "collection",
  must_collection_id: "collection",
  order_id: "sales_order",
  outside_id: "outside_warehouse",
  parent_id: "package",
  pattern_id: "shipping_pattern",
  planned_service_id: "service",
  pull_warehouse_id: "warehouse",
  return_intent_id: "return_intent",
  reverses_id: "charge",
  run_id: "pick_run",
  shipped_order_id: "sales_order",
  source_id: "order_source",
  split_from_id: "sales_order",
  token_id: "api_token",
  used_packaging_id: "packaging",
}

/** The table that a column without a foreign key refers to, by its name. */
function referred({ table, name }: ColumnRow, names: ReadonlySet<string>): string | null {
  if (name === "id") return table
  const byName = otherNames[name] ?? name.replace(/_id$/, "")
  return name.endsWith("_id") && names.has(byName) ? byName : null
}
