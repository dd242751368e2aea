import { existsSync, readdirSync, readFileSync } from "node:fs"
import { dirname, join } from "node:path"
import { describe, expect, it } from "vitest"

const pages = [
  "README.md",
  ...["docs", "docs/decisions"].flatMap((folder) =>
    readdirSync(folder)
      .filter((name) => name.endsWith(".md"))
      .map((name) => join(folder, name)),
  ),
]

describe("the docs are true", () => {
  for (const page of pages)
    it(`${page} names and links files that are there`, () => {
      const text = readFileSync(page, "utf8")
      const named = [
        ...text.matchAll(/`((?:app|core|server|words|standins|demo|tests|scripts|docs|public)\/[\w./-]*)`/g),
      ]
      const linked = [...text.matchAll(/\]\(([^)#:]+)(?:#[^)]*)?\)/g)].map((one) =>
        join(dirname(page), one[1] as string),
      )
      expect([...named.map((one) => one[1] as string), ...linked].filter((path) => !existsSync(path))).toEqual([])
    })

  it("lists every decision", () => {
    const list = readFileSync("docs/decisions/README.md", "utf8")
    const missing = readdirSync("docs/decisions").filter((name) => name !== "README.md" && !list.includes(`(${name})`))
    expect(missing).toEqual([])
  })
})
