import { execFileSync, spawn } from "node:child_process"
import { mkdtempSync, rmSync, writeFileSync } from "node:fs"
import { tmpdir } from "node:os"
import { join } from "node:path"
import { chromium } from "@playwright/test"

/** Makes the pictures of docs/screenshots from a fresh demo: `npm run screenshots`. Needs chromium and poppler-utils. */
const folder = mkdtempSync(join(tmpdir(), "varnok-pictures-"))
const demo = spawn(
  process.execPath,
  ["scripts/demo.mjs", "--fresh", "--data", join(folder, "demo"), "--port", "4950"],
  { stdio: ["ignore", "pipe", "inherit"] },
)
let output = ""
await new Promise((resolve, reject) => {
  demo.stdout.on("data", (part) => {
    output += part
    if (output.includes("Ctrl+C stops everything")) resolve()
  })
  demo.once("exit", () => reject(new Error(output)))
})
// what fails in between leaves no demo behind
process.once("exit", () => demo.kill("SIGTERM"))
const base = /Varnok\s+(http\S+)\//.exec(output)[1]
const flags =
  "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync"
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: flags.split(" ") })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
const shoot = async (name, path) => {
  if (path) await page.goto(base + path)
  await page.waitForTimeout(700)
  await page.screenshot({ path: `docs/screenshots/${name}.png` })
}
const line = async (text) => {
  await page.locator("#scan-line").fill(text)
  await page.waitForTimeout(700)
  await page.keyboard.press("Enter")
  await page.waitForTimeout(900)
}
const plate = async () => {
  await page.waitForTimeout(700)
  // a plate that waits for something is no button: pressed then, nothing would come of it
  await page.locator(".plate.ready .plate-body").click()
  await page.waitForTimeout(1200)
}
const sheet = async (link, name) => {
  const pdf = await (await page.request.get(base + link)).body()
  writeFileSync(join(folder, `${name}.pdf`), pdf)
  execFileSync("pdftoppm", [
    "-r",
    "110",
    "-png",
    "-singlefile",
    join(folder, `${name}.pdf`),
    `docs/screenshots/${name}`,
  ])
}

const byHand = async (order) => {
  await page.goto(`${base}/pick/${order}`)
  await page.waitForTimeout(700)
  const button = page.locator(".by-hand button")
  while ((await button.count()) > 0) {
    // the last one goes away with the stop it belongs to, maybe just now
    await button.click({ timeout: 5_000 }).catch(() => undefined)
    await page.waitForTimeout(600)
  }
}

await page.goto(`${base}/sign-in`)
await page.getByRole("button", { name: /Maren/ }).click()
await page.waitForURL(`${base}/`)
await page.goto(`${base}/orders/intake`)
await page.getByLabel(/Order file/).setInputFiles("demo/files/orders-noon.csv")
await page.getByRole("button", { name: "Preview", exact: true }).click()
await page.locator(".two").waitFor()
await shoot("intake")
await plate()
const orderNumber = (
  await page
    .getByText(/imported as \d{5}/)
    .first()
    .textContent()
).match(/\d{5}/)[0]
await shoot("day", "/")
await page.getByLabel("people today").fill("1")
await page.getByRole("button", { name: "Save", exact: true }).click()
await page.waitForTimeout(900)
await shoot("day-late")
await page.getByRole("button", { name: "as scheduled" }).click()
await page.waitForTimeout(600)
await shoot("orders", "/orders")
await page.goto(`${base}/orders/returns/48194-R1`)
await page.getByLabel("HYD-TRI, good").fill("2")
await page.getByLabel("HYD-TRI, damaged").fill("1")
await page.getByLabel("Note on HYD-TRI").fill("jar cracked")
await page.getByRole("button", { name: "Record count" }).click()
await page.locator(".back-found li").first().waitFor()
await page.locator(".back-move summary").first().click()
await shoot("return")
await shoot("order", "/orders/48237")
await shoot("attention", "/orders/attention")
await shoot("followed", "/orders/48193")
await shoot("pick", "/pick/runs/101")
await page.goto(`${base}/pick/${orderNumber}`)
await page.waitForTimeout(900)
while ((await page.locator(".pick-bin").count()) > 0) {
  await line(await page.locator(".pick-bin").textContent())
  const button = page.locator(".by-hand button")
  if ((await button.count()) > 0) await button.first().click()
  await page.waitForTimeout(900)
}
await page.goto(`${base}/shipment/${orderNumber}`)
await plate()
await line("a")
await line("c")
await line("K12")
await line("all")
await line("27.9 lb")
await plate()
await shoot("shipment")
await plate()
await page.locator(".labels-panel").waitFor({ timeout: 20_000 })
await byHand("48281")
await page.goto(`${base}/shipment/48281`)
await line("K09")
await line("all")
await plate()
await shoot("abroad")
// what papers say, with a gap: terms that want an insurance
const rates = page.url()
await page.goto(`${rates}${rates.includes("?") ? "&" : "?"}papers`)
await page.getByLabel("Incoterm", { exact: true }).selectOption("CIP")
await page.getByRole("button", { name: "Save customs details", exact: true }).click()
await page.waitForTimeout(1200)
await page.locator(".papers-line summary").nth(1).click()
await shoot("papers")
await page.getByLabel("Incoterm", { exact: true }).selectOption("DAP")
await page.getByRole("button", { name: "Save customs details", exact: true }).click()
await page.locator(".papers-panel").getByText("Nothing is missing").waitFor()
await page.goto(rates)
await page.locator(".plate.ready strong", { hasText: /^Buy/ }).waitFor()
await page.waitForTimeout(900)
await plate()
await page.locator(".labels-panel").waitFor({ timeout: 20_000 })
await sheet(
  await page
    .locator(".labels-panel")
    .getByRole("row", { name: /invoice/ })
    .getByRole("link")
    .first()
    .getAttribute("href"),
  "invoice",
)
await byHand("48229")
await page.goto(`${base}/shipment/48229`)
await page.waitForTimeout(1500)
await plate()
await page.getByRole("button", { name: "Pack all as planned" }).click()
await page.waitForTimeout(900)
await page.getByRole("button", { name: "See inside 1" }).click()
await page.waitForTimeout(900)
await shoot("bench")
await page.goto(`${base}/dock`)
await line("door 4")
const waiting = await page.locator(".door-missing b").allTextContents()
await line(waiting[0])
await shoot("dock")
// forty orders, picked by the pick page's own form as its button does, packed and rated by their run
await page.goto(`${base}/orders?stage=released`)
const many = (await page.locator("tbody th a").allTextContents()).slice(0, 40)
await page.evaluate(async (numbers) => {
  for (const number of numbers)
    for (let stops = 0; stops < 60; stops += 1) {
      const html = await (await fetch(`/pick/${number}`)).text()
      const form = [...new DOMParser().parseFromString(html, "text/html").forms].find((one) =>
        one.querySelector('input[name="intent"][value="by-hand"]'),
      )
      if (!form) break
      const body = new URLSearchParams([...new FormData(form).entries()].map(([name, value]) => [name, String(value)]))
      await fetch(`/pick/${number}`, { method: "POST", body })
    }
}, many)
await page.goto(`${base}/orders?stage=picked`)
await page.getByLabel("Select all shown").check()
await page.getByLabel("Find a field").fill("labels")
await page.locator("#group-run-name").fill("Morning")
await plate()
await page.locator(".plate strong", { hasText: /^Buy \d+ for/ }).waitFor({ timeout: 120_000 })
await shoot("shipping-run")
await page.setViewportSize({ width: 390, height: 844 })
await shoot("pick-phone", "/pick/runs/101")
await page.setViewportSize({ width: 1280, height: 800 })
// the van of Reno with its neighbors
await page.goto(`${base}/`)
await page.getByRole("button", { name: "Reno" }).click()
await page.waitForTimeout(900)
await page.goto(`${base}/dock`)
await line("door 9")
for (const name of await page.locator(".door-missing b").allTextContents()) await line(name)
await page.getByRole("link", { name: "Delivery round", exact: true }).click()
await page.getByRole("button", { name: "Plan the round" }).click()
await page.locator(".round-stops > li").nth(4).waitFor()
const round = page.url()
await page.goBack()
await page.locator(".door-early input[type=checkbox]").check()
await page.getByRole("button", { name: /^Close door 9 early/ }).click()
await page.locator(".plate strong", { hasText: "is closed" }).waitFor()
await page.goto(round)
await page.getByText("Mark this stop").first().click()
await page.getByLabel("Received by").first().fill("Ida Brook")
await page.getByRole("button", { name: "Delivered", exact: true }).first().click()
await page.waitForTimeout(900)
await page.getByText("Mark this stop").first().click()
await shoot("round")
await page.context().clearCookies()
await page.goto(`${base}/sign-in`)
await page.getByRole("button", { name: /Ada/ }).click()
await page.waitForURL(`${base}/`)
await page.goto(`${base}/set-up/carriers/LARK/1`)
await page.getByRole("button", { name: "Duplicate as draft" }).click()
await page.waitForURL(/LARK\/2/)
await page.getByLabel("Shows").selectOption("rates.LKG")
await page.locator(".cm-line").nth(4).click()
await page.keyboard.press("Home")
await page.keyboard.press("Shift+End")
await page.keyboard.type("4,11.90,14.02,15.58,17.15,18.71,20.27,21.83,23.39")
await page.waitForTimeout(900)
await shoot("tariff")
await browser.close()
demo.kill("SIGTERM")
await new Promise((resolve) => demo.once("exit", resolve))
rmSync(folder, { recursive: true, force: true })
