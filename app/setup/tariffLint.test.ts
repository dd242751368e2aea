import { readFileSync } from "node:fs"
import { tariffSchema, tariffTables, tariffText } from "core/tariff/index.ts"
import { describe, expect, it } from "vitest"
import { readTable, tableText } from "./tableText.ts"
import { lintDocument, lintTable } from "./tariffLint.ts"

const boreal = tariffSchema.parse(JSON.parse(readFileSync("demo/tariffs/BORE.json", "utf8")))
const text = tariffText(boreal)
const marked = (text: string, of: (text: string) => string) => {
  const changed = of(text)
  return lintDocument(changed).marks.map((one) => [one.level, one.place, changed.slice(one.from, one.to), one.words])
}

describe("a document in the editor", () => {
  it("with nothing wrong has no marks, and is written as it was read", () => {
    expect(lintDocument(text)).toMatchObject({ marks: [] })
    expect(tariffText(lintDocument(text).tariff)).toBe(text)
  })
  it("is marked where its schema refuses a figure", () => {
    expect(marked(text, (all) => all.replace('"leastNet": "7.10"', '"leastNet": "7,10"'))).toEqual([
      ["error", "services, 0, leastNet", '"7,10"', "a figure is text such as 12.50"],
    ])
  })
  it("is marked where the linter finds something, with the service's code", () => {
    const lines = marked(text, (all) => all.replace('["1", "9.10"', '["1", "99.10"'))
    expect(lines[0]).toEqual([
      "warning",
      "BRD, price, rows, 1, 1",
      '"9.43"',
      "2, zone 2: 9.43 is less than 99.10 in the row before",
    ])
  })
  it("that is no JSON is told as such", () => {
    const { tariff, marks } = lintDocument("{")
    expect([tariff, marks.length, marks[0]?.words.startsWith("not JSON")]).toEqual([null, 1, true])
  })
})

describe("a table in the editor", () => {
  const table = tariffTables(boreal).find((one) => one.name === "rates.BRD")
  if (!table) throw new Error("no table")
  const csv = tableText(table)
  const lint = (changed: string) => {
    const read = readTable("rates.BRD", changed)
    if (!read) throw new Error("no CSV")
    return lintTable(boreal, read.table, read.starts, changed.length)
  }
  it("goes to text and back as it was", () => {
    expect(readTable(table.name, csv)?.table).toEqual(table)
    expect(lint(csv).marks).toEqual([])
  })
  it("is marked in the row of a bad cell", () => {
    const changed = csv.replace("\n3,", "\n3x,")
    const [mark] = lint(changed).marks
    expect([mark?.place, changed.slice(mark?.from, mark?.to).startsWith("3x,")]).toEqual(["3, weight", true])
  })
  it("is marked in the row that falls", () => {
    const changed = csv.replace("\n2,9.43", "\n2,9.01")
    const [mark] = lint(changed).marks
    expect([mark?.level, changed.slice(mark?.from, mark?.to).startsWith("2,9.01")]).toEqual(["warning", true])
  })
  it("with a quote that does not close is none", () => expect(readTable("x", 'a,b\n"1,2\n')).toBeNull())
  it("finds the beginning of rows behind a cell of two lines", () =>
    expect(readTable("x", 'a,b\n1,"x\ny"\n3,4\n')).toEqual({
      table: {
        name: "x",
        header: ["a", "b"],
        rows: [
          ["1", "x\ny"],
          ["3", "4"],
        ],
      },
      starts: [0, 4, 12],
    }))
})
