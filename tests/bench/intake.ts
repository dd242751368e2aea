import autocannon from "autocannon"
import type { Knex } from "knex"
import type { Context } from "server/actors/index.ts"
import { type BookForm, findAddresses, putAddresses } from "server/addresses/book.ts"
import { start } from "../../scripts/stack.mjs"
import { there } from "../../server/db/there.ts"
import { header, row } from "../server/rows.ts"

const say = (text: string) => process.stdout.write(`${text}\n`)
const seconds = (since: number) => (performance.now() - since) / 1000

async function latency(base: string, duration: number): Promise<{ p50: number; p97: number }> {
  const found = await autocannon({ url: `${base}/sign-in`, connections: 1, duration })
  return { p50: found.latency.p50, p97: found.latency.p97_5 }
}

/** An order file of many lines, uploaded and imported by a worker, and what other pages feel of it. */
export async function benchImport(
  db: Knex,
  at: { readonly base: string; readonly cookie: string; readonly databaseUrl: string; readonly logs: string },
  lines: number,
): Promise<void> {
  await db("stock").update({ on_hand: 10_000_000 })
  const skus = (await db("item").whereNull("un_number").orderBy("id").pluck("sku")) as string[]
  const rows = Array.from({ length: lines }, (_, index) =>
    row({
      order_number: `IMP-${Math.floor(index / 5)}`,
      sku: skus[(index * 7) % skus.length] as string,
      quantity: "1",
    }),
  )
  const form = new FormData()
  form.append("source", "file")
  form.append("file", new Blob([[header, ...rows].join("\n")], { type: "text/csv" }), "many.csv")
  const idle = await latency(at.base, 4)
  const began = performance.now()
  let uploading = true
  const upload = fetch(`${at.base}/orders/intake`, {
    method: "POST",
    body: form,
    headers: { cookie: at.cookie, origin: at.base },
    redirect: "manual",
  }).finally(() => {
    uploading = false
  })
  const during = await latency(at.base, 4)
  const answer = await upload
  const read = seconds(began)
  if (uploading || answer.status >= 400) throw new Error(`the upload was answered ${answer.status}`)
  const file = there(await db("intake_file").orderBy("id", "desc").first())
  if (file.row_count !== lines) throw new Error(`${file.row_count} of ${lines} lines were read`)
  const worker = start("worker", process.execPath, ["build/server/worker.js"], {
    logs: at.logs,
    env: { VARNOK_DATABASE: at.databaseUrl, NODE_ENV: "production", VARNOK_LOG: "warn" },
  })
  const taking = performance.now()
  const taken = await fetch(`${at.base}/orders/intake/${file.id}`, {
    method: "POST",
    body: new URLSearchParams({ intent: "take-in" }),
    headers: { cookie: at.cookie, origin: at.base },
    redirect: "manual",
  })
  if (taken.status >= 400) throw new Error(`taking in was answered ${taken.status}`)
  const asked = seconds(taking)
  const busy = await latency(at.base, 6)
  for (;;) {
    const now = there(await db("intake_file").where({ id: file.id }).first("state"))
    if (now.state === "taken") break
    await new Promise((resolve) => setTimeout(resolve, 500))
  }
  const all = seconds(taking)
  await worker.stop()
  const orders = Math.ceil(lines / 5)
  const ratio = (one: number, other: number) => (one / Math.max(0.5, other)).toFixed(1)
  say(`\nimport of ${lines} lines (${orders} orders of 5)`)
  say(`  read and previewed in ${read.toFixed(1)} s, ${(lines / read).toFixed(0)} lines a second`)
  say(
    `  asked to take in: answered in ${asked.toFixed(2)} s; taken in by one worker in ${all.toFixed(0)} s, ${(orders / all).toFixed(0)} orders a second`,
  )
  say(
    `  a trivial page meanwhile, median and 97.5 % against idle: while reading ${ratio(during.p50, idle.p50)} and ${ratio(during.p97, idle.p97)} times, while taking in ${ratio(busy.p50, idle.p50)} and ${ratio(busy.p97, idle.p97)} times (idle ${idle.p50} and ${idle.p97} ms)`,
  )
}

/** Finding addresses as one types, at two sizes of the directory. */
export async function benchDirectory(context: Context): Promise<void> {
  const { db } = context
  const firms = ["Brewing", "Ciderhouse", "Winery", "Kombucha", "Distilling", "Taproom", "Laboratory", "Cellars"]
  const streets = ["Wortmill Drive", "Stave Court", "Kettleman Avenue", "Lagerhaus Lane", "Mashtun Way"]
  const entry = (index: number): BookForm => ({
    code: `A${index}`,
    customer: "",
    company: `Firm${(index * 7919) % 9973} ${firms[index % firms.length]}`,
    attention: "",
    street: `${index % 900} ${streets[index % streets.length]}`,
    street2: "",
    city: ["Duluth", "Denver", "Fargo", "Portland"][index % 4] as string,
    state: "MN",
    postal_code: "55802",
    country: "US",
    phone: "",
    address_kind: "business",
    building: "",
    instructions: "",
    opening_hours: "",
    dock: "unknown",
    forklift: "unknown",
  })
  const typed = ["b", "brew", "firm77", "wortm 12", "denver stave 7", "A512", "55802 cell", "ciderh portland kett"]
  const measure = async () => {
    const times: number[] = []
    for (let round = 0; round < 6; round += 1)
      for (const text of typed) {
        const began = performance.now()
        await findAddresses(context, text, 10)
        if (round > 0) times.push(performance.now() - began)
      }
    times.sort((a, b) => a - b)
    return { median: times[Math.floor(times.length / 2)] as number, most: times.at(-1) as number }
  }
  await putAddresses(
    db,
    Array.from({ length: 1_000 }, (_, index) => entry(index)),
  )
  await db.raw("ANALYZE TABLE address_book, address_word")
  const small = await measure()
  await putAddresses(
    db,
    Array.from({ length: 99_000 }, (_, index) => entry(1_000 + index)),
  )
  await db.raw("ANALYZE TABLE address_book, address_word")
  const large = await measure()
  say("\ndirectory of addresses, a search as one types (median and longest of 40)")
  for (const [name, one] of [
    ["1 000 entries", small],
    ["100 000 entries", large],
  ] as const)
    say(`  ${name.padEnd(16)} ${one.median.toFixed(1)} ms, ${one.most.toFixed(1)} ms`)
  say(`  100 000 against 1 000: median ${(large.median / small.median).toFixed(1)} times`)
}
