import { readFileSync } from "node:fs"
import { answerJson, argument, bodyOf, FileState, serve } from "../process.ts"

/**
 * An address service, simulated: it knows the addresses of a file and nothing else. `GET /suggest?q=TEXT&country=US`
 * lists at most eight that begin so. `POST /check` with an address answers `confirmed`, `corrected` with the address as
 * it is known, or `unknown`, and what kind the address is. `PUT /faults` with
 * `{ "fault": "down" | "slow" | "malformed" | null }`.
 *
 * Arguments: --state FILE --port N --addresses FILE
 */
interface Known {
  street: string
  city: string
  state: string
  postalCode: string
  country: string
  kind: "business" | "residential"
}

const known = JSON.parse(readFileSync(argument("addresses"), "utf8")) as Known[]
const state = new FileState<{ fault: "down" | "slow" | "malformed" | null }>(argument("state"), { fault: null })

/** Ways of writing what is the same. */
const same: readonly (readonly [RegExp, string])[] = [
  [/\b(street|str|st)\b/g, "street"],
  [/\b(avenue|ave|av)\b/g, "avenue"],
  [/\b(road|rd)\b/g, "road"],
  [/\b(lane|ln)\b/g, "lane"],
  [/\b(drive|dr)\b/g, "drive"],
  [/\b(court|ct)\b/g, "court"],
  [/\b(terrace|ter)\b/g, "terrace"],
  [/\b(place|pl)\b/g, "place"],
  [/\b(boulevard|blvd)\b/g, "boulevard"],
]
const plain = (text: string): string => {
  const bare = text
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .replace(/ß/g, "ss")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, " ")
    .trim()
  return same.reduce((now, [shape, word]) => now.replace(shape, word), bare)
}
const index = known.map((one) => ({
  one,
  street: plain(one.street),
  city: plain(one.city),
  code: plain(one.postalCode).replace(/ /g, ""),
}))

function check(asked: Partial<Known>) {
  const street = plain(asked.street ?? "")
  const [city, code] = [plain(asked.city ?? ""), plain(asked.postalCode ?? "").replace(/ /g, "")]
  const here = index.filter((one) => one.one.country === asked.country && one.street === street)
  // the street with its number, and one of the two that say where: a slip in the other is corrected
  const found = here.filter((one) => one.city === city || one.code.slice(0, 5) === code.slice(0, 5))
  if (found.length !== 1) return { status: "unknown", address: null, kind: "unknown" }
  const { kind, ...address } = (found[0] as (typeof index)[number]).one
  const right = (Object.keys(address) as (keyof typeof address)[]).every((name) => address[name] === asked[name])
  return { status: right ? "confirmed" : "corrected", address, kind }
}

serve(Number(argument("port", "0")), async (request, response) => {
  const url = new URL(request.url ?? "/", "http://addresses")
  if (url.pathname === "/faults" && request.method === "PUT") {
    state.value.fault = (JSON.parse((await bodyOf(request)).toString()) as { fault: typeof state.value.fault }).fault
    state.save()
    return answerJson(response, 200, state.value)
  }
  if (state.value.fault === "down") return answerJson(response, 503, { error: "closed for maintenance" })
  if (state.value.fault === "slow") await new Promise((resolve) => setTimeout(resolve, 10_000))
  if (state.value.fault === "malformed") return void response.writeHead(200).end("<html>")
  if (url.pathname === "/suggest") {
    const words = plain(url.searchParams.get("q") ?? "")
      .split(" ")
      .filter(Boolean)
    const country = url.searchParams.get("country") ?? ""
    const fits = ({ street, city, code }: (typeof index)[number]) =>
      words.every((word) => `${street} ${city} ${code}`.split(" ").some((part) => part.startsWith(word)))
    const found =
      words.length === 0 ? [] : index.filter((one) => (!country || one.one.country === country) && fits(one))
    return answerJson(response, 200, { addresses: found.slice(0, 8).map((one) => one.one) })
  }
  if (url.pathname === "/check" && request.method === "POST")
    return answerJson(response, 200, check(JSON.parse((await bodyOf(request)).toString()) as Partial<Known>))
  answerJson(response, 404, { error: "no such address" })
})
