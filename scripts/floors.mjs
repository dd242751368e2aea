import { execFileSync } from "node:child_process"
import { readFileSync, writeFileSync } from "node:fs"
import { dirname, join, normalize } from "node:path"
import { floors, places, shared } from "../tests/unit/floors.ts"

/**
 * Draws docs/floors.svg from the imports of the sources: `npm run floors`. A row imports the columns in which it has a
 * figure, which says in how many files; everything left of the diagonal is downwards.
 */
const files = execFileSync("git", ["ls-files", "--", "server", "app"])
  .toString()
  .trim()
  .split("\n")
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.ts$/.test(file) && file.split("/").length > 2)
  // the program of the threads is given what they compute
  .filter((file) => file !== "server/compute/worker.ts")

/** In how many files of a room another one is imported. */
function importsOf(top) {
  const found = new Map()
  for (const file of files.filter((one) => one.startsWith(`${top}/`))) {
    const own = file.split("/")[1]
    const names = [...readFileSync(file, "utf8").matchAll(/(?:[\s}]from\s|^import\s)"([^"\n]+)"/gm)].map(
      (one) => one[1],
    )
    const rooms = new Set(
      names.flatMap((name) => {
        const path = name.startsWith(".") ? normalize(join(dirname(file), name)) : name
        const [first, room, rest] = path.split("/")
        return first === top && rest && room !== own && !name.includes("+types") ? [room] : []
      }),
    )
    for (const room of rooms) found.set(`${own} ${room}`, (found.get(`${own} ${room}`) ?? 0) + 1)
  }
  return found
}

const cell = 21
const left = 150
const ink = "#1A1814"
const text = (x, y, words, more = "") => `<text x="${x}" y="${y}" ${more}>${words}</text>`

function matrix(title, bands, found, top) {
  const rooms = bands.flatMap(([, some]) => some)
  const out = [text(14, top - 78, title, 'font-size="20" font-weight="700"')]
  let at = 0
  bands.forEach(([name, some], index) => {
    const [from, size] = [left + at * cell, some.length * cell]
    out.push(
      `<rect x="${left}" y="${top + at * cell}" width="${rooms.length * cell}" height="${size}" fill="${index % 2 ? "#F6F2EA" : "#ECE6D9"}"/>`,
      `<rect x="${from}" y="${top + at * cell}" width="${size}" height="${size}" fill="none" stroke="${ink}" stroke-width="1.5"/>`,
      text(left + rooms.length * cell + 12, top + at * cell + size / 2 + 5, name, 'font-size="15" font-weight="700"'),
    )
    at += some.length
  })
  rooms.forEach((room, row) => {
    const y = top + row * cell
    out.push(text(left - 8, y + 15, room, 'text-anchor="end"'))
    out.push(
      `<text transform="translate(${left + row * cell + 14} ${top - 8}) rotate(-60)">${room}</text>`,
      `<rect x="${left + row * cell}" y="${y}" width="${cell}" height="${cell}" fill="${ink}" opacity="0.12"/>`,
    )
    rooms.forEach((other, column) => {
      const n = found.get(`${room} ${other}`)
      if (n) out.push(text(left + column * cell + cell / 2, y + 15, n, 'text-anchor="middle" font-size="11"'))
    })
  })
  return { out, height: rooms.length * cell }
}

const server = matrix("server", Object.entries(floors), importsOf("server"), 110)
const second = 110 + server.height + 150
const app = matrix(
  "app",
  [
    ["shared", shared],
    ["places", places],
  ],
  importsOf("app"),
  second,
)
const width = left + Object.values(floors).flat().length * cell + 120
const height = second + app.height + 20
writeFileSync(
  "docs/floors.svg",
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" font-family="Atkinson Hyperlegible Next, Arial, sans-serif" font-size="13" fill="${ink}">
<rect width="${width}" height="${height}" fill="#FFFFFF"/>
${[...server.out, ...app.out].join("\n")}
</svg>
`,
)
