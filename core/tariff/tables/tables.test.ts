import { readdirSync, readFileSync } from "node:fs"
import { describe, expect, it } from "vitest"
import { tariffSchema } from "../schema.ts"
import { tariffTables, withTable } from "./index.ts"

const read = (name: string) => tariffSchema.parse(JSON.parse(readFileSync(`demo/tariffs/${name}.json`, "utf8")))
const codes = readdirSync("demo/tariffs").flatMap((name) => /^([A-Z]{4})\.json$/.exec(name)?.[1] ?? [])
const larkspur = read("LARK")
const tableOf = (name: string, tariff = larkspur) => {
  const table = tariffTables(tariff).find((one) => one.name === name)
  if (!table) throw new Error(`no table ${name}`)
  return table
}

describe("every table of every tariff", () => {
  it.each(codes)("%s goes out and comes in again as it was", (code) => {
    const tariff = read(code)
    const tables = tariffTables(tariff)
    expect(tables.length).toBeGreaterThan(1)
    for (const table of tables) {
      const back = withTable(tariff, table)
      expect(back.ok ? tariffTables(back.tariff) : back.cells).toEqual(tables)
    }
  })
})

describe("a table that comes in", () => {
  it("changes its own figures and nothing else, with columns in any order", () => {
    const { name, header, rows } = tableOf("rates.LKG")
    const [first, ...others] = rows
    const changed = [[(first as string[])[0] as string, "99.99", ...(first as string[]).slice(2)], ...others]
    const turned = (row: readonly string[]) => [...row].reverse()
    const answer = withTable(larkspur, { name, header: turned(header), rows: changed.map(turned) })
    if (!answer.ok) throw new Error(JSON.stringify(answer.cells))
    const [before, after] = [larkspur, answer.tariff].map((one) => one.services[0]?.price)
    if (before?.by !== "weight" || after?.by !== "weight") throw new Error("not by weight")
    expect(after.rows[0]?.slice(0, 2)).toEqual(["1", "99.99"])
    expect(after.rows.slice(1)).toEqual(before.rows.slice(1))
    expect({ ...answer.tariff, services: answer.tariff.services.slice(1) }).toEqual({
      ...larkspur,
      services: larkspur.services.slice(1),
    })
  })

  it("tells every bad cell by row and column", () => {
    const { name, header } = tableOf("zones.home")
    const rows = [
      ["US", "558", "558", "US", "535", "588", "2"],
      ["US", "558", "558", "USA", "80o", "829", ""],
    ]
    const answer = withTable(larkspur, { name, header, rows })
    expect(answer.ok ? [] : answer.cells.map((one) => [one.row, one.column, one.why.code])).toEqual([
      [2, "country", "cell.country"],
      [2, "first", "cell.postal"],
      [2, "zone", "cell.code"],
    ])
  })

  it.each([
    ["a column that lacks", ["week"], [["2026-11-23"]], [[0, "share", "cell.no-column"]]],
    ["a column too many", ["week", "share", "note"], [["2026-11-23", "0.1", "x"]], [[0, "note", "cell.other-column"]]],
    ["a row too short", ["week", "share"], [["2026-11-23"]], [[1, "share", "cell.row-length"]]],
    ["no rows", ["week", "share"], [], [[0, "week", "cell.no-rows"]]],
    [
      "a share over one, a day that is none",
      ["week", "share"],
      [["2026-13-01", "1.2"]],
      [
        [1, "week", "cell.date"],
        [1, "share", "cell.share"],
      ],
    ],
  ])("is refused for %s", (_, header, rows, expected) => {
    const fuel = tariffTables(larkspur).find((one) => one.name.startsWith("fuel.")) as { name: string }
    const answer = withTable(larkspur, { name: fuel.name, header, rows })
    expect(answer.ok ? [] : answer.cells.map((one) => [one.row, one.column, one.why.code])).toEqual(expected)
  })

  it("is refused as a whole where the document's schema says so", () => {
    const areas = tableOf("areas")
    const wrong = withTable(larkspur, { ...areas, rows: [["remote", "US", "600", "592"]] })
    expect(wrong.ok ? [] : wrong.cells.map((one) => [one.row, one.why.code])).toEqual([[0, "cell.schema"]])
    expect(withTable(larkspur, { name: "rates.NONE", header: [], rows: [] }).ok).toBe(false)
  })
})
