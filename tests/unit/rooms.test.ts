import { execFileSync } from "node:child_process"
import { existsSync, readFileSync } from "node:fs"
import { dirname, join, normalize } from "node:path"
import { describe, expect, it } from "vitest"
import { floors, places, shared } from "./floors.ts"

/** What each room may import, as in docs/architecture.md. A room may always import itself. */
const allowed: Record<string, { rooms: string[]; packages?: RegExp }> = {
  // core knows of words only which codes there are and what they need: their types, and nothing that runs
  core: { rooms: ["words/catalogue.ts"], packages: /^(decimal\.js|zod|@date-fns\/tz|date-fns|fastest-levenshtein)$/ },
  words: { rooms: ["core"], packages: /^intl-messageformat$/ },
  server: { rooms: ["core", "words"], packages: /^(?!react$|react-dom|@chakra-ui|@emotion)/ },
  app: { rooms: ["core", "server", "words"] },
  // a stand-in is an outside program: it may know units and money of the core at most, and never the rating
  standins: {
    rooms: ["core/units", "core/money"],
    packages: /^(@sealsystems\/ipp|nodemailer|smtp-server|standardwebhooks|node:.*)$/,
  },
  demo: { rooms: ["core", "server", "words"] },
}

/** The program that runs in the threads: it is given what they compute. */
const programs = new Set(["server/compute/worker.ts"])

const files = execFileSync("git", ["ls-files", "-co", "--exclude-standard", "--", "*.ts", "*.tsx"])
  .toString()
  .trim()
  .split("\n")
  .filter((file) => existsSync(file))

function importsOf(file: string): string[] {
  const text = readFileSync(file, "utf8")
  return [...text.matchAll(/(?:[\s}]from\s|^import\s|\bimport\s*\()\s*"([^"\n()]+)"/gm)].map(
    (match) => match[1] as string,
  )
}

/** The place in the repository that an import names, or null for a package. */
function place(file: string, name: string): string | null {
  if (name.startsWith(".")) return normalize(join(dirname(file), name))
  return /^(core|server|app|standins|demo|tests|words)\//.test(name) ? name : null
}

describe("the rooms depend downwards only", () => {
  for (const [room, rule] of Object.entries(allowed)) {
    it(room, () => {
      const own = files.filter((file) => file.startsWith(`${room}/`) && !/\.test\.tsx?$/.test(file))
      expect(own.length).toBeGreaterThan(0)
      const wrong = own.flatMap((file) =>
        importsOf(file).flatMap((name) => {
          const target = place(file, name)
          if (target === null)
            return rule.packages && !rule.packages.test(name) && !name.startsWith("node:") ? [`${file} → ${name}`] : []
          if (target.startsWith(".react-router") || name.startsWith("./+types")) return []
          const into = target.split("/")[0] as string
          const fits = into === room || rule.rooms.some((one) => target === one || target.startsWith(`${one}/`))
          return fits ? [] : [`${file} → ${name}`]
        }),
      )
      expect(wrong).toEqual([])
    })
  }

  it("app asks the rooms of the server, and queries no table itself", () => {
    const wrong = files
      .filter((file) => file.startsWith("app/"))
      .flatMap((file) => {
        const text = readFileSync(file, "utf8")
        const queries = [
          ...text.matchAll(/\b(?:db|trx)\s*(?:<[^>()]*>)?\(|\b(?:db|trx)\s*\.(?:raw|from|select|transaction)\b/g),
        ]
        const imports = importsOf(file).filter((name) => name.startsWith("server/db"))
        return [...queries.map((one) => `${file}: ${one[0]}`), ...imports.map((name) => `${file} → ${name}`)]
      })
    expect(wrong).toEqual([])
  })

  it("the places of app, which share the parts, the frame and the theme and know nothing of each other", () => {
    const own = files.filter((file) => /^app\/[^/]+\//.test(file))
    const placeOf = (path: string) => path.split("/")[1] as string
    const wrong = own.flatMap((file) =>
      importsOf(file).flatMap((name) => {
        const target = place(file, name)
        if (!target || !/^app\/[^/]+\//.test(target) || name.startsWith("./+types")) return []
        const [from, into] = [placeOf(file), placeOf(target)]
        const below = shared.indexOf(into)
        const fits = from === into || (below >= 0 && (shared.indexOf(from) < 0 || below < shared.indexOf(from)))
        return fits ? [] : [`${file} → ${target}`]
      }),
    )
    expect(wrong).toEqual([])
    expect([...new Set(own.map(placeOf))].toSorted()).toEqual([...shared, ...places].toSorted())
  })

  it("screens fall into components of about 150 lines", () => {
    const long = files
      .filter((file) => /^app\/.*\.tsx$/.test(file))
      .flatMap((file) =>
        [...readFileSync(file, "utf8").matchAll(/^(?:export )?(?:default )?function (\w+)[\s\S]*?^}$/gm)].flatMap(
          (one) => {
            const lines = one[0].split("\n").length
            return lines > 175 ? [`${file}: ${one[1]} has ${lines} lines`] : []
          },
        ),
      )
    expect(long).toEqual([])
  })

  it("lists are one component; only forms in rows and rates beside each other draw a table of their own", () => {
    const own = files.filter((file) => /^app\/.*\.tsx$/.test(file) && readFileSync(file, "utf8").includes("<table"))
    expect(own.toSorted()).toEqual([
      "app/orders/OrderChange.tsx",
      "app/orders/order-new.tsx",
      "app/parts/Table.tsx",
      "app/quotes/quote.tsx",
      "app/setup/shifts.tsx",
      "app/setup/source.tsx",
      "app/shipment/RateTable.tsx",
    ])
  })

  it("a paragraph holds no form: a browser would end it there, and the page not be what was sent", () => {
    const wrong = files
      .filter((file) => /^app\/.*\.tsx$/.test(file))
      .flatMap((file) =>
        [...readFileSync(file, "utf8").matchAll(/<p(?: [^>]*)?>(.*?)<\/p>/gs)]
          .filter(([, inner = ""]) => /<(?:Act|ActForm|Form|form|div|ul|ol)\b/.test(inner))
          .map(([paragraph]) => `${file}: ${paragraph.slice(0, 60)}`),
      )
    expect(wrong).toEqual([])
  })

  it("core touches no file, clock or chance", () => {
    const own = files.filter((file) => file.startsWith("core/") && !file.endsWith(".test.ts"))
    const wrong = own.filter((file) =>
      /node:|Math\.random|Date\.now|new Date\(\)|process\./.test(readFileSync(file, "utf8")),
    )
    expect(wrong).toEqual([])
  })

  it("the server's, by its floors", () => {
    const order = Object.values(floors).flat()
    const own = files.filter((file) => file.startsWith("server/") && !/\.test\.ts$/.test(file))
    const roomOf = (path: string) => path.split("/")[1] as string
    expect([...new Set(own.map(roomOf))].toSorted()).toEqual(order.toSorted())
    const wrong = own
      .filter((file) => !programs.has(file))
      .flatMap((file) =>
        importsOf(file).flatMap((name) => {
          const target = place(file, name)
          if (!target?.startsWith("server/")) return []
          return order.indexOf(roomOf(target)) > order.indexOf(roomOf(file)) ? [`${file} → ${target}`] : []
        }),
      )
    expect(wrong).toEqual([])
  })

  it("core takes nothing but types from the words", () => {
    const own = files.filter((file) => file.startsWith("core/") && !file.endsWith(".test.ts"))
    const wrong = own.filter((file) => /^import (?!type )[^\n]*"words\//m.test(readFileSync(file, "utf8")))
    expect(wrong).toEqual([])
  })

  it("nothing imports a stand-in", () => {
    const wrong = files.filter(
      (file) =>
        !file.startsWith("standins/") && importsOf(file).some((name) => place(file, name)?.startsWith("standins/")),
    )
    expect(wrong).toEqual([])
  })
})
