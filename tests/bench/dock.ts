import { randomUUID } from "node:crypto"
import autocannon from "autocannon"
import type { Knex } from "knex"
import { there } from "../../server/db/there.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)

/** Doors of the day, and packages that leave with their trucks. */
const doors = 100
const packages = 3_000

/** A day with a hundred doors and three thousand labeled packages, as rows, since only the dock is measured. */
export async function fillDock(
  db: Knex,
  first: number,
): Promise<{ readonly doors: number[]; readonly ssccs: string[][] }> {
  const service = there(await db("service").where({ code: "LKG" }).first("id", "carrier_id"))
  await db("collection").insert(
    Array.from({ length: doors }, (_, at) => ({
      id: first + at,
      warehouse_id: 1,
      carrier_id: service.carrier_id,
      door: `Z${at}`,
      on_date: "2026-11-24",
      cut_off: new Date(Date.UTC(2026, 10, 24, 20, at % 60, Math.floor(at / 60))),
      services: '["LKG"]',
    })),
  )
  const source = there(await db("order_source").orderBy("id").first("id"))
  const ssccs: string[][] = Array.from({ length: doors }, () => [])
  for (let from = 0; from < packages; from += 1_000) {
    const ids = Array.from({ length: 1_000 }, (_, index) => first + from + index)
    await db("sales_order").insert(
      ids.map((id) => ({
        id,
        warehouse_id: 1,
        source_id: source.id,
        source_number: `DK-${id}`,
        order_number: `D${(id - first).toString(36).padStart(4, "0")}`,
        customer_name: "Elk Run Taproom",
        po_number: "",
        ordered_on: "2026-11-23",
        promised_on: "2026-12-02",
        company: "Elk Run Taproom",
        attention: "",
        street: "1 Growler Row",
        street2: "",
        city: "Denver",
        state: "CO",
        postal_code: "80205",
        country: "US",
        phone: "",
        address_kind: "business",
        notes: "",
        content_hash: "",
        received_at: new Date("2026-11-24T12:00:00Z"),
        refused_rows: "[]",
        collection_id: first + ((id - first) % doors),
        left_line_at: new Date("2026-11-24T15:00:00Z"),
      })),
    )
    await db("shipment").insert(
      ids.map((id) => ({
        id,
        order_id: id,
        warehouse_id: 1,
        state: "bought",
        service_id: service.id,
        collection_id: first + ((id - first) % doors),
        ship_date: "2026-11-24",
        master_tracking: `DK${id}`,
        bought_at: new Date("2026-11-24T15:00:00Z"),
        wishes: "{}",
        lading: "{}",
      })),
    )
    await db("package").insert(
      ids.map((id) => {
        const door = (id - first) % doors
        const sscc = `09521234${String(id).padStart(9, "0")}`
        const full = `${sscc}${checkDigit(sscc)}`
        there(ssccs[door]).push(full)
        return {
          shipment_id: id,
          number: 1,
          state: "labelled" as const,
          length_mm: "300",
          width_mm: "200",
          height_mm: "200",
          tare_kg: "0.3",
          sscc: full,
          tracking: `DK${id}`,
          sent_kg: "5.2",
          collection_id: first + door,
        }
      }),
    )
  }
  return { doors: Array.from({ length: doors }, (_, at) => first + at), ssccs }
}

/** GS1 check digit: weights 3 and 1 from the right. */
function checkDigit(text: string): number {
  const sum = [...text].reverse().reduce((all, digit, at) => all + Number(digit) * (at % 2 === 0 ? 3 : 1), 0)
  return (10 - (sum % 10)) % 10
}

/** Scans of the packages of a hundred doors, one after another, each loaded once: how long one waits for its answer. */
export async function benchScans(
  db: Knex,
  base: string,
  cookie: string,
  filled: { readonly doors: readonly number[]; readonly ssccs: readonly (readonly string[])[] },
  trivial: number,
): Promise<void> {
  const scans = filled.doors.flatMap((door, at) =>
    there(filled.ssccs[at])
      .slice(0, 10)
      .map((sscc) => ({ door, sscc })),
  )
  const requests = scans.map(({ door, sscc }) => ({
    method: "POST" as const,
    path: `/dock/${door}.data`,
    headers: { cookie, "content-type": "application/x-www-form-urlencoded;charset=UTF-8", origin: base },
    body: new URLSearchParams({
      intent: "scan",
      text: sscc,
      collection: String(door),
      scanId: randomUUID(),
    }).toString(),
  }))
  const found = await autocannon({ url: base, connections: 1, amount: requests.length, requests })
  const loaded = await db("package")
    .whereIn("collection_id", [...filled.doors])
    .where({ state: "on-truck" })
    .count({ n: "*" })
    .first()
  if (Number(loaded?.n) !== requests.length) throw new Error(`${loaded?.n} of ${requests.length} packages were loaded`)
  if (found.non2xx > 0 || found.errors > 0) throw new Error(`${found.non2xx} scans were refused`)
  say(
    `\na scan at one of ${doors} doors: median ${found.latency.p50} ms, 97.5 % ${found.latency.p97_5} ms; the trivial page ${trivial} ms: ${(found.latency.p50 / Math.max(1, trivial)).toFixed(1)} times`,
  )
}
