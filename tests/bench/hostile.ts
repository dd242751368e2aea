import { readFileSync } from "node:fs"
import { megabytes as of, sendRaw } from "../rawRequest.ts"

/**
 * How long others wait for a page, and how much memory the application takes, while somebody sends what nobody sends, as
 * fast as it is taken; beside the same page in quiet. The sender takes its share of the same cores.
 */
export async function benchHostile(base: string, pid: number, cookie: string): Promise<void> {
  const say = (text: string) => process.stdout.write(`${text}\n`)
  const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1] ?? 0) / 1024
  const send = (method: string, path: string, headers: Record<string, string>, parts?: Iterable<string | Buffer>) =>
    sendRaw(base, method, path, headers, parts).then(
      (told) => told.status,
      () => 0,
    )
  const page = async () => {
    const begun = performance.now()
    await send("GET", "/orders", { cookie })
    return performance.now() - begun
  }
  const median = async (times: number) => {
    const all: number[] = []
    for (let n = 0; n < times; n += 1) all.push(await page())
    return all.sort((a, b) => a - b)[times >> 1] as number
  }
  const form = { "content-type": "application/x-www-form-urlencoded" }
  const file = { "content-type": "multipart/form-data; boundary=x", cookie }
  const attacks: Readonly<Record<string, () => Promise<number>>> = {
    "sign-in, 64 KB of a=&": () => send("POST", "/sign-in", form, ["a=&".repeat(21_845)]),
    "sign-in, 10 MB of a=&": () => send("POST", "/sign-in", form, of(10, "a=&")),
    "sign-in, 100 MB in one field": () => send("POST", "/sign-in", form, ["a=", ...of(100, "x")]),
    "a page's form, 999 fields": () => send("POST", "/orders", { ...form, cookie }, ["order=1&".repeat(998)]),
    "upload, 50 MB of nothing": () => send("POST", "/orders/intake", file, of(50, "x")),
    "upload, 100 000 fields": () =>
      send("POST", "/orders/intake", file, [
        '--x\r\ncontent-disposition: form-data; name="a"\r\n\r\nb\r\n'.repeat(100_000),
      ]),
    "API, 8 MB without a token": () =>
      send("POST", "/api/v1/orders/bulk", { "content-type": "application/json" }, of(8, "[")),
  }
  // until pages cost what they cost
  await median(150)
  const quiet = await median(25)
  say(`\nothers' pages while somebody attacks; in quiet ${quiet.toFixed(0)} ms, ${memory().toFixed(0)} MB`)
  for (const [name, attack] of Object.entries(attacks)) {
    const before = memory()
    let going = true
    let most = before
    let sent = 0
    const attacking = (async () => {
      for (; going && sent < 400; sent += 1) {
        await attack()
        most = Math.max(most, memory())
      }
    })()
    const waited = await median(25)
    going = false
    await attacking
    say(
      `${name.padEnd(32)}${`${waited.toFixed(0)} ms`.padStart(9)}${`${(waited / quiet).toFixed(1)} times`.padStart(12)}${`${(most - before).toFixed(0)} MB more`.padStart(14)}${`${sent} sent`.padStart(12)}`,
    )
  }
}
