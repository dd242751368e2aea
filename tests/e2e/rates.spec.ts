import { expect, type Page } from "@playwright/test"
import { byHand, press, signIn, tabTo, test, type, url } from "./hands.ts"

/** The name of the service that arrives first, read from the table: "Wed, Nov 25, 9:00". */
async function fastestShown(page: Page): Promise<string> {
  const rows = page.locator(".rates tbody tr:has(th)")
  const shown = await rows.evaluateAll((all) =>
    all.map((row) => ({
      name: row.querySelector("th")?.textContent ?? "",
      arrives: /(\w{3} \d+), (\d+:\d\d)/.exec(row.textContent ?? ""),
    })),
  )
  const times = shown.map(({ name, arrives }) => ({
    name,
    at: Date.parse(`${arrives?.[1]}, 2026 ${arrives?.[2]} UTC`),
  }))
  return times.reduce((least, one) => (one.at < least.at ? one : least)).name
}

test("services are compared, an option is asked for at its price, one key chooses cheapest and fastest", async ({
  page,
}) => {
  await signIn(page)
  await page.goto(`${url()}/pick/48256`)
  await byHand(page)
  await page.goto(`${url()}/shipment/48256`)
  await page.getByLabel("with everything left").check()
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await expect(page.locator(".rates tr.next .strong")).toHaveText(/^\d+\.\d\d$/)
  const cost = async () => Math.round(Number(await page.locator(".rates tr.next .strong").textContent()) * 100)

  // the cheapest in time is chosen; the fastest by its word arrives no later than any other, whatever doors are closed
  const next = page.locator(".rates tr.next th").first()
  const cheapest = (await next.textContent()) as string
  await type(page, "fastest")
  await expect(page).toHaveURL(/service=/)
  const first = await fastestShown(page)
  await expect(next).toHaveText(first)
  await type(page, "cheapest")
  await expect(next).toHaveText(cheapest)

  // a carrier is hidden and shown; the address remembers it
  const rows = await page.locator(".rates tbody tr").count()
  const carriers = page.getByRole("navigation", { name: "Carriers shown" })
  const hidden = (await carriers.getByRole("link").last().textContent()) as string
  await carriers.getByRole("link", { name: hidden }).click()
  await expect(page).toHaveURL(/hide=/)
  await expect(page.locator(".rates tbody tr")).not.toHaveCount(rows)
  await carriers.getByRole("link", { name: hidden }).click()
  await expect(page.locator(".rates tbody tr")).toHaveCount(rows)

  // asked for by keyboard alone, at the price that stands on the button
  await page.getByRole("link", { name: "Larkspur Ground", exact: true }).click()
  await expect(page.locator(".rates tr.next th").first()).toContainText("Larkspur Ground")
  const before = await cost()
  const signature = page.getByRole("button", { name: /^signature \+\d/ })
  const more = Math.round(Number(((await signature.textContent()) ?? "").replace(/[^\d.]/g, "")) * 100)
  await tabTo(page, signature)
  await page.keyboard.press("Enter")
  await expect(page.getByRole("button", { name: /^signature \+\d/ })).toHaveAttribute("aria-pressed", "true")
  await expect.poll(cost).toBe(before + more)
  await expect(page.locator(".rates .why")).toContainText("signature")

  // the same goods otherwise, and on the map
  await page.getByRole("link", { name: "alternatives" }).click()
  await expect(page.locator(".variants li").first()).toContainText("as packed")
  await expect(page.locator(".rate-plot .variant")).toHaveCount(await page.locator(".variants li").count())
  await page.getByRole("link", { name: "map", exact: true }).click()
  await expect(page.getByRole("img", { name: /^Route from Duluth to/ })).toBeVisible()
  await page.getByRole("link", { name: "plot", exact: true }).click()

  // another pays: our cost is nobody's then, and carriers whose account it is not say so
  await page.getByLabel("freight terms").selectOption("third-party")
  await page.getByLabel("account", { exact: true }).fill("LK-300-1000")
  await page
    .locator("form", { has: page.getByLabel("freight terms") })
    .getByRole("button", { name: "Save" })
    .click()
  await expect(page.locator(".rates tr.next")).toHaveCount(2)
  await expect(page.locator(".rates tr.next").first()).toContainText("third party pays")
  await expect(page.locator(".rates tr.next .strong")).toHaveText("")
  await page.getByText(/services can't take it/).click()
  await expect(page.locator(".cannot")).toContainText("Meridian Air has no account LK-300-1000")
})

test("a tariff is copied, changed with the linter looking on, tried on last month, and released", async ({ page }) => {
  await signIn(page, "ada")
  await page.goto(`${url()}/set-up/carriers/SIER/1`)
  await page.getByRole("button", { name: "Duplicate as draft" }).click()
  await expect(page).toHaveURL(/SIER\/2$/)
  await expect(page.getByRole("heading", { name: "No findings" })).toBeVisible()
  await page.getByLabel("Shows").selectOption("rates.SDD")
  const editor = page.locator(".cm-content")
  await expect(editor).toContainText("weight,")
  // a cell that is not a number can't be saved
  await editor.click()
  await page.keyboard.press("Control+Home")
  await page.keyboard.press("ArrowDown")
  await page.keyboard.press("End")
  await page.keyboard.type("x")
  await expect(page.locator(".plate strong")).toHaveText("1 to fix")
  await expect(page.locator(".lint-list")).toContainText("is not a number")
  await page.keyboard.press("Backspace")
  await expect(page.getByRole("heading", { name: "No findings" })).toBeVisible()
  // one that falls can be saved, and the linter says it
  const zones = ((await page.locator(".cm-line").first().textContent()) ?? "").split(",").length - 1
  await page.keyboard.press("ArrowDown")
  await page.keyboard.press("Home")
  await page.keyboard.press("Shift+End")
  await page.keyboard.type(["2", ...Array.from({ length: zones }, () => "0.50")].join(","))
  await expect(page.locator(".lint-list")).toContainText("in the row before")
  await press(page, "Save draft")
  await expect(page.locator("#scan-answer")).toHaveText("Saved.")
  await page.getByRole("button", { name: "Test on last month's shipments" }).click()
  await expect(page.locator(".tariff-side")).toContainText("Nothing was booked with this carrier in the last 31 days.")
  await page.getByRole("button", { name: "Release", exact: true }).click()
  await expect(page.locator("#scan-answer")).toContainText("Released")
  await page.getByRole("button", { name: "Withdraw", exact: true }).click()
  await expect(page.locator("#scan-answer")).toContainText("Withdrawn")
  const table = await page.request.get(`${url()}/set-up/carriers/SIER/1/rates.SDD.csv`)
  expect([table.status(), (await table.text()).split(/\r?\n/)[0]?.startsWith("weight,")]).toEqual([200, true])
  const schema = (await (await page.request.get(`${url()}/set-up/carriers/schema.json`)).json()) as { $schema: string }
  expect(schema.$schema).toBe("https://json-schema.org/draft/2020-12/schema")
})

test("the sales desk makes a quote, sees what is charged and no cost, and sends it; the clerk sends the order so", async ({
  page,
  browser,
}) => {
  await signIn(page, "ilse")
  await page.goto(`${url()}/orders/quotes/new`)
  await page.getByLabel("ZIP or postal code").fill("58102")
  await page.getByLabel("State").fill("ND")
  await page.getByLabel("Packages").fill("3 x 22 lb 20 x 15 x 13 in\nfive pounds")
  await press(page, "Make the quote")
  await expect(page.getByRole("alert")).toContainText("Line 2, “five pounds”, isn't valid")
  // what was typed stays
  await expect(page.getByLabel("Packages")).toHaveValue(/five pounds/)
  await page.getByLabel("Packages").fill("3 x 22 lb 20 x 15 x 13 in")
  await press(page, "Make the quote")
  await expect(page).toHaveURL(/\/orders\/quotes\/Q\d+$/)
  await expect(page.locator(".quote-services tbody tr").first()).toContainText(/\d+\.\d\d/)
  expect(await page.locator(".quote-services").textContent()).not.toContain("our cost")
  const pdf = await page.request.get(`${page.url()}/quote.pdf`)
  expect(pdf.headers()["content-type"]).toBe("application/pdf")
  await page.getByLabel("to", { exact: true }).fill("anna@example.com")
  await page.getByRole("button", { name: "Send by e-mail" }).click()
  await expect(page.locator(".quote-facts")).toContainText("to anna@example.com: sent")
  const number = page.url().split("/").at(-1) as string

  const maren = await (await browser.newContext()).newPage()
  await signIn(maren)
  await maren.goto(`${url()}/orders/quotes/${number}`)
  await expect(maren.locator(".quote-services")).toContainText("our cost")
  await maren.getByLabel("Use for order").fill("99999")
  await maren.getByRole("button", { name: "Use this quote" }).click()
  await expect(maren.getByRole("alert")).toContainText("There is no order 99999 here.")
  // an order is written for it: place and quote are in it, the rest is typed, and one key sends it as quoted
  await maren.getByRole("link", { name: "Create an order from it" }).click()
  await expect(maren.getByRole("status").filter({ hasText: `For quote ${number}.` })).toBeVisible()
  await expect(maren.getByLabel("ZIP or postal code", { exact: true })).toHaveValue("58102")
  await maren.getByLabel("Customer", { exact: true }).fill("Red River Brew")
  await maren.getByLabel("Street and number", { exact: true }).fill("12 Any Street")
  await maren.getByLabel("City", { exact: true }).fill("Fargo")
  await maren.getByLabel("Item", { exact: true }).first().fill("YST-ALE-500")
  await maren.getByLabel("Quantity of line 1").fill("10")
  await maren.getByLabel("Unit of line 1").fill("each")
  await maren.getByLabel("Requested service").fill("Larkspur Ground")
  // the last field would be kept while the order is being imported: what a save asks again must not lead past the quote
  let asked = false
  await maren.route(/\/orders\/new\.data/, async (route) => {
    const answer = await route.fetch({ maxRedirects: 0 })
    const taking = new URLSearchParams(route.request().postData() ?? "").get("intent") === "take"
    for (let tries = 0; taking && !asked && tries < 15; tries += 1) await new Promise((after) => setTimeout(after, 100))
    await route.fulfill({ response: answer })
    asked ||= route.request().method() === "GET"
  })
  await maren.getByLabel("Paid for freight").fill("20.00")
  await maren.getByRole("button", { name: "Create the order", exact: true }).click()
  await expect(maren).toHaveURL(/\?orderNumber=\d{5}$/)
  const orderNumber = maren.url().slice(-5)
  await expect(maren.getByLabel("Use for order")).toHaveValue(orderNumber)
  await press(maren, /^Ship with /)
  await expect(maren).toHaveURL(new RegExp(`/shipment/${orderNumber}$`))
  await maren.goto(`${url()}/orders/quotes/${number}`)
  await expect(maren.locator(".quote-facts")).toContainText(`used for ${orderNumber}`)
  await maren.close()
})
