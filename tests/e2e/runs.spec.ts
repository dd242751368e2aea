import { execFileSync } from "node:child_process"
import { PDFDocument } from "@cantoo/pdf-lib"
import { expect, type Page } from "@playwright/test"
import { plate, press, printer, scan, signIn, test, type, url } from "./hands.ts"

interface Printed {
  readonly id: number
  readonly queue: string
  readonly name: string
  readonly pages: number
  readonly waits?: boolean
}
const printed = async (page: Page): Promise<Printed[]> => (await page.request.get(`${printer()}/jobs`)).json()
const media = (page: Page, wanted: object) => page.request.put(`${printer()}/media`, { data: wanted })
const fault = (page: Page, carrier: string, wanted: object) =>
  page.request.put(`${process.env.VARNOK_CARRIERS}/${carrier}/faults`, { data: wanted })

/** What an independent reader finds on a paper. */
const wordsOf = (pdf: Buffer): string => execFileSync("pdftotext", ["-layout", "-", "-"], { input: pdf }).toString()

/** Picks orders as the button on the pick page does, by its own form, one after another; forty by hand take long. */
const pickOrders = (page: Page, orders: readonly string[]) =>
  page.evaluate(async (numbers) => {
    for (const number of numbers)
      for (let stops = 0; stops < 60; stops += 1) {
        const html = await (await fetch(`/pick/${number}`)).text()
        const form = [...new DOMParser().parseFromString(html, "text/html").forms].find((one) =>
          one.querySelector('input[name="intent"][value="by-hand"]'),
        )
        if (!form) break
        const body = new URLSearchParams(
          [...new FormData(form).entries()].map(([name, value]) => [name, String(value)]),
        )
        await fetch(`/pick/${number}`, { method: "POST", body })
      }
  }, orders)

/** The numbers of the first orders in the list that can be picked. */
async function openOrders(page: Page, n: number): Promise<string[]> {
  await page.goto(`${url()}/orders?stage=released`)
  await expect(page.locator("tbody tr").first()).toBeVisible()
  return (await page.locator("tbody th a").allTextContents()).slice(0, n)
}

const pdfOf = (name: string, bytes: Uint8Array) => ({
  name: `${name}.pdf`,
  mimeType: "application/pdf",
  buffer: Buffer.from(bytes),
})

test.describe.configure({ mode: "serial" })

test("a paper goes along, a label comes back with it, and a field is found by its word", async ({ page }) => {
  await signIn(page, "tomas")
  await page.goto(`${url()}/orders/48270`)
  // a file that is no PDF is refused in words and changes nothing
  const file = page.getByLabel(/^PDF, up to 5 MB/)
  await file.setInputFiles(pdfOf("note", Buffer.from("only a note")))
  await page.getByRole("button", { name: "Attach" }).click()
  await expect(page.locator("#scan-answer")).toContainText("isn't a PDF that can be read")
  const pdf = await PDFDocument.create()
  pdf.addPage([612, 792])
  await file.setInputFiles(pdfOf("Care sheet", await pdf.save()))
  await page.getByRole("button", { name: "Attach" }).click()
  await expect(page.locator(".own-papers")).toContainText("Care sheet")
  // the return label is asked for by its word, for this order alone
  await type(page, "return label")
  const bar = page.locator(".change-one")
  await expect(bar).toContainText(/set the return label/i)
  await bar.getByLabel("Return label").selectOption("print")
  await bar.getByRole("button", { name: "Change" }).click()
  await expect(page.locator(".sent-with")).toContainText("printed, goes into the box")
  await pickOrders(page, ["48270"])
  await page.goto(`${url()}/shipment/48270`)
  await page.getByLabel("with everything left").check()
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await press(page, "Close the carton")
  await press(page, /^Buy and print/)
  const papers = page.locator(".labels-panel")
  await expect(papers.getByRole("row", { name: /Care sheet/ })).toContainText("printed 1 time")
  await expect(papers.getByRole("row", { name: /48270-R1\.1/ })).toContainText("printed 1 time")
  // another one, of one piece, to somewhere else, by e-mail
  const returns = page.locator(".return-labels")
  await expect(returns).toContainText("paid when scanned")
  await returns.getByText("New return label").click()
  await returns.getByLabel("What comes back").selectOption("lines")
  await returns.getByLabel(/^GSK-15-100, up to/).fill("9")
  await returns.getByRole("button", { name: "See prices" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Enter no more than that")
  await returns.getByLabel(/^GSK-15-100, up to/).fill("1")
  await returns.getByLabel("E-mail it to").fill("shop@example.com")
  await returns.getByLabel("Print it here").uncheck()
  await returns.getByRole("button", { name: "See prices" }).click()
  await returns
    .getByRole("button", { name: /^Get it/ })
    .first()
    .click()
  await expect(returns.locator("li").filter({ hasText: "R2" })).toContainText("shop@example.com")
  await expect(returns.locator("li").filter({ hasText: "R2" })).toContainText("ready")
  await returns.getByRole("button", { name: "Void return label 2" }).click()
  await expect(returns.locator("li").filter({ hasText: "R2" })).toContainText("void")
})

test("forty orders go from the list to printed labels: three fail, are mended and bought; a jam on the way", async ({
  page,
}) => {
  await signIn(page)
  const before = (await printed(page)).length
  const orders = await openOrders(page, 40)
  expect(orders.length).toBe(40)
  await pickOrders(page, orders)

  // the list: chosen, what is done found by its word, Enter
  await page.goto(`${url()}/orders?stage=picked`)
  await page.getByLabel("Select all shown").check()
  await page.getByLabel("Find a field").fill("labels")
  await expect(page.getByLabel("With selected")).toHaveValue("ship")
  await page.locator("#group-run-name").fill("Morning")
  await press(page, /Change \d+ orders/)
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Morning")
  // packed as suggested and rated in the background; freight for a pallet is packed at the bench
  // (so many together, while another house works beside this one)
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Buy \d+ for \$/, { timeout: 120_000 })
  const rows = page.locator(".run-rows tbody tr")
  const ready = rows.filter({ has: page.locator("b", { hasText: /^ready$/ }) })
  const count = await ready.count()
  expect(count).toBeGreaterThan(25)

  // a weight that can't be: the order falls out, says why, and is back when it is typed right
  const heavy = ready.first()
  const number = (await heavy.locator("th").textContent()) ?? ""
  const field = rows.filter({ hasText: number }).locator(".weight-field").first()
  const calculated = (await field.getAttribute("placeholder")) ?? ""
  await field.fill("1900")
  await field.press("Enter")
  await expect(rows.filter({ hasText: number })).toContainText("weighs 1900 lb")
  await expect(page.locator(".plate.ready strong")).toHaveText(new RegExp(`^Buy ${count - 1} for`), { timeout: 60_000 })
  await field.fill(calculated)
  await field.press("Enter")
  await expect(page.locator(".plate.ready strong")).toHaveText(new RegExp(`^Buy ${count} for`), { timeout: 60_000 })

  // two that the carrier refuses fall back, the others are bought while the browser is elsewhere
  await fault(page, "LARK", { fault: "refuse", times: 2 })
  await media(page, { queue: "labels", sheets: 10 })
  await page.locator("#scan-line").focus()
  await plate(page, new RegExp(`^Buy ${count} for`))
  await expect(page.locator(".plate strong")).toHaveText(/^Buying/)
  const run = page.url()
  await page.goto(`${url()}/`)
  await expect(page.locator(".top-run")).toContainText("bought, 2 refused", { timeout: 90_000 })
  await page.goto(run)
  await expect(page.locator(".top-run")).toHaveCount(0)
  await expect(rows.filter({ hasText: "refused:" })).toHaveCount(2)

  // the printer is out of labels: the run says so, and goes on when it has more
  await expect(page.locator(".run-head .ember")).toContainText("out of labels", { timeout: 60_000 })
  await media(page, { queue: "labels", sheets: null })
  await expect(page.locator(".run-head")).not.toContainText("waiting to be printed", { timeout: 90_000 })

  // the refused are tried again by themselves, and bought
  await page.getByRole("button", { name: "Try 2 failed again" }).click()
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Buy 2 for/)
  await plate(page, /^Buy 2 for/)
  // those that are still "waiting to be bought" are not
  await expect(rows.filter({ has: page.locator("b", { hasText: /^bought$/ }) })).toHaveCount(count, { timeout: 60_000 })
  await expect(rows.filter({ hasText: "not printed" })).toHaveCount(0, { timeout: 60_000 })
  await expect(page.locator(".run-head")).not.toContainText("waiting to be printed", { timeout: 60_000 })

  // each label once, by what stands on it; others print there too, and marks for goods
  const jobs = (await printed(page)).slice(before).filter((one) => one.queue === "labels" && !one.waits)
  const inRun = (await rows.locator("th").allTextContents()).map((text) => text.slice(0, 5))
  const names: string[] = []
  for (const { id } of jobs) {
    const words = wordsOf(await (await page.request.get(`${printer()}/jobs/${id}.pdf`)).body())
    const name = /\b\d{5}-\d+\b/.exec(words)?.[0] ?? ""
    if (words.includes("SSCC") && inRun.includes(name.slice(0, 5))) names.push(name)
  }
  const packages = Number(await page.locator(".run-carriers .strong td").nth(1).textContent())
  expect(new Set(names).size).toBe(names.length)
  expect(names.length).toBe(packages)

  // all as one PDF, and put away when it is done with
  const pdf = await page.request.get(`${run}/labels.pdf`)
  expect(pdf.headers()["content-type"]).toBe("application/pdf")
  expect((await pdf.body()).subarray(0, 5).toString()).toBe("%PDF-")
  // the run says that it is put away before the address is left: going at once would cut the press off
  await page.getByRole("button", { name: "Put away" }).click()
  await expect(page.getByRole("button", { name: "Take out again" })).toBeVisible()
  await page.goto(`${url()}/orders/runs?away`)
  await expect(page.locator("tbody")).toContainText("Morning")
})

test("labels on half sheets, from the bench's own printer; orders scanned into a run and changed together", async ({
  page,
  browser,
}) => {
  // the lead sets the office printer to half sheets, and bench 2 to print its labels there
  const lead = await (await browser.newContext()).newPage()
  await signIn(lead, "tomas")
  await lead.goto(`${url()}/set-up/printers`)
  await lead.getByRole("link", { name: "Paper printer, office" }).click()
  await lead.getByRole("link", { name: "Edit" }).click()
  await lead.getByLabel("Form", { exact: true }).selectOption("half-letter")
  await press(lead, "Save printer")
  await expect(lead.locator("#scan-answer")).toContainText("Printer saved")
  await lead.getByLabel("labels at Bench 2", { exact: true }).selectOption({ label: "Paper printer, office" })
  await lead.getByRole("button", { name: "Save choices" }).click()
  await expect(lead.locator("#scan-answer")).toContainText("Saved")

  await signIn(page)
  await page.goto(`${url()}/account`)
  await page.getByLabel("Bench", { exact: true }).selectOption({ label: "Bench 2" })
  await page.getByRole("button", { name: "Remember on this computer" }).click()
  await expect(page.getByLabel("Bench", { exact: true })).toHaveValue(/[1-9]/)

  const orders = await openOrders(page, 3)
  await pickOrders(page, orders)
  await page.goto(`${url()}/orders/runs`)
  await page.getByRole("button", { name: /Start an empty run/ }).click()
  await expect(page.locator(".plate strong")).toHaveText("Scan orders into the run")
  for (const order of orders) {
    await scan(page, order)
    await expect(page.locator("#scan-answer")).toContainText(order)
  }
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Buy 3 for/)
  // a signature for all three, found by its word and taken back with one press
  await page.getByLabel("Select all shown").check()
  await page.getByLabel("Find a field").fill("signature")
  await press(page, "Change 3 orders")
  await expect(page.locator("#scan-answer")).toContainText("3 changed")
  await expect(page.locator(".group-last")).toContainText("set the signature: 3 orders")
  await page.getByRole("button", { name: "Undo", exact: true }).click()
  await expect(page.locator("#scan-answer")).toContainText("3 undone")
  await page.getByLabel("Select all shown").uncheck()

  // their packing slips before their labels, one to a sheet
  const slipsBefore = (await printed(page)).length
  await page.getByRole("button", { name: "Print: Packing slips" }).click()
  await expect(page.locator("#scan-answer")).toContainText("packing-slips-run")
  await expect
    .poll(async () => (await printed(page)).slice(slipsBefore).map((one) => one.queue), { timeout: 60_000 })
    .toEqual(["paper"])

  const before = (await printed(page)).length
  await press(page, /^Buy 3 for/)
  const bought = page.locator(".run-rows tbody tr").filter({ has: page.locator("b", { hasText: /^bought$/ }) })
  await expect(bought).toHaveCount(3, { timeout: 60_000 })
  await expect(page.locator(".run-head")).not.toContainText("waiting to be printed", { timeout: 60_000 })
  await expect
    .poll(async () => (await printed(page)).slice(before).filter((one) => one.queue === "paper").length, {
      timeout: 60_000,
    })
    .toBeGreaterThanOrEqual(2)
  const packages = Number(await page.locator(".run-carriers td").nth(1).textContent())
  expect(packages).toBeGreaterThanOrEqual(1)
  await lead.context().close()
})
