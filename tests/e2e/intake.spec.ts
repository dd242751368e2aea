import { expect, type Page } from "@playwright/test"
import { byHand, plate, press, signIn, tabTo, test, type, url } from "./hands.ts"

const header = "order_number,ordered_on,promised_on,customer,street,city,state,postal_code,address_kind,sku,quantity"
const line = (order: string, sku: string, quantity: string) =>
  `${order},2026-11-24,2026-12-03,Elk Run Taproom,14 Growler Row,Denver,CO,80205,business,${sku},${quantity}`

async function upload(page: Page, name: string, rows: readonly string[]): Promise<void> {
  await page.goto(`${url()}/orders/intake`)
  const buffer = Buffer.from([header, ...rows].join("\n"))
  await page.getByLabel(/Order file/).setInputFiles({ name, mimeType: "text/csv", buffer })
  await page.getByRole("button", { name: "Preview", exact: true }).click()
  await expect(page.getByRole("heading", { name })).toBeVisible()
}

test("a refused row is corrected in place, and its order goes on", async ({ page }) => {
  await signIn(page)
  await upload(page, "wrong.csv", [line("E-1", "BUN-10", "2"), line("E-1", "HYD-TRI", "some")])
  await press(page, "Import 1 order")
  await expect(page.locator(".plate strong")).toHaveText("Back to the day")
  const order = page.getByRole("row", { name: /E-1/ })
  await expect(order).toContainText("1 refused, comes in stopped")
  await page.getByRole("button", { name: "Correct line 3" }).click()
  await page.getByLabel("Quantity").fill("none")
  await page.getByRole("button", { name: "Save row" }).click()
  await expect(page.locator(".scan-answer")).toContainText("quantity “none” is not a whole number")
  await page.getByLabel("Quantity").fill("3")
  await page.getByRole("button", { name: "Save row" }).click()
  await expect(page.getByText("No refused rows.")).toBeVisible()
  await order.getByRole("link").click()
  await expect(page.locator(".order-stops")).toHaveCount(0)
  await expect(page.locator(".order-promise")).toContainText("to pick")
})

test("an order is typed by keyboard with look-up, kept over a reload, taken in and copied", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/orders/new`)
  await page.getByLabel("Customer", { exact: true }).fill("Loon Bay Brewery")
  await page.getByLabel("Purchase order", { exact: true }).fill("E2E 7")
  await tabTo(page, page.locator("#sku-0"))
  await page.keyboard.type("hydro", { delay: 60 })
  await expect(page.locator(".look-up-list [role=option]").first()).toContainText("HYD-TRI")
  await page.keyboard.press("ArrowDown")
  await page.keyboard.press("Enter")
  await expect(page.locator("#sku-0")).toHaveValue("HYD-TRI")
  await page.getByLabel("Quantity of line 1").fill("2")
  await page.getByLabel("Street and number", { exact: true }).fill("3 Peatwater Drive")
  await page.getByLabel("City", { exact: true }).fill("Thief River Falls")
  await page.getByLabel("State", { exact: true }).fill("mn")
  await expect(page.getByText("Draft saved.")).toBeVisible()
  await page.reload()
  await expect(page.locator("#sku-0")).toHaveValue("HYD-TRI")
  await expect(page.getByLabel("Street and number", { exact: true })).toHaveValue("3 Peatwater Drive")
  await page.getByLabel("ZIP or postal code", { exact: true }).fill("56701")
  await expect(page.getByText("Draft saved.")).toBeVisible()
  // imported while the last pause is still being kept: nobody else typed, so nothing is refused
  let saves = 0
  await page.route(/\/orders\/new\.data/, async (route) => {
    if (!route.request().postData()?.includes("save")) return await route.continue()
    saves += 1
    const answer = await route.fetch()
    await new Promise((after) => setTimeout(after, 1200))
    await route.fulfill({ response: answer })
  })
  await page.getByLabel("Purchase order", { exact: true }).fill("E2E 8")
  await expect.poll(() => saves).toBe(1)
  await page.getByLabel("Attention", { exact: true }).fill("Solveig")
  await press(page, "Create the order")
  await expect(page).toHaveURL(/\/orders\/\d{5}$/)
  await expect(page.locator(".order-promise")).toContainText("to pick")
  await page.getByRole("link", { name: "Copy to a new order" }).click()
  await expect(page.locator("#sku-0")).toHaveValue("HYD-TRI")
  await expect(page.getByLabel("Purchase order", { exact: true })).toHaveValue("")
})

test("a change at the source after picking shows both sides, and is taken", async ({ page }) => {
  await signIn(page)
  await upload(page, "first.csv", [line("E-3", "BUN-10", "2"), line("E-3", "NUT-FER-1", "1")])
  await press(page, "Import 1 order")
  const orderNumber = (await page.getByText(/imported as \d{5}/).textContent())?.match(/\d{5}/)?.[0] as string
  await page.goto(`${url()}/pick/${orderNumber}`)
  await byHand(page)
  await upload(page, "second.csv", [line("E-3", "BUN-10", "1"), line("E-3", "HYD-TRI", "4")])
  await expect(page.getByText(`${orderNumber} is being worked on; the change waits there for a decision`)).toBeVisible()
  await press(page, "Import 1 order")
  await expect(page.locator(".plate small")).toHaveText("1 order is waiting for a decision")
  await page.goto(`${url()}/orders/${orderNumber}`)
  await expect(page.locator(".order-stops")).toContainText("its source changed it after picking started (second.csv)")
  const change = page.locator(".order-change")
  await expect(change.getByRole("row", { name: /BUN-10/ })).toContainText("BUN-10221")
  await expect(change.getByRole("row", { name: /NUT-FER-1/ })).toContainText("gone")
  await expect(change.getByRole("row", { name: /HYD-TRI/ })).toContainText("HYD-TRI––4")
  await change.getByRole("button", { name: "Accept the change" }).click()
  await expect(page.locator(".scan-answer")).toContainText("Put back: 1 × BUN-10 →")
  await expect(page.locator(".order-change")).toHaveCount(0)
  await expect(page.locator(".order-promise")).toContainText("picking")
})

test("the source is asked for a period, and a dealer's file is read by its own columns", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/orders/intake`)
  await page.getByRole("button", { name: "Get orders" }).click()
  await expect(page.locator(".scan-answer")).toContainText("orders read")
  await page.getByLabel("Source").selectOption({ label: "Dealers' orders" })
  await page.getByLabel(/Order file/).setInputFiles("demo/files/orders-dealers.csv")
  await page.getByRole("button", { name: "Preview", exact: true }).click()
  await expect(page.getByText("2 orders in 3 rows, 0 rows refused")).toBeVisible()
  await plate(page, "Import 2 orders")
  await page
    .getByRole("row", { name: /D-4401/ })
    .getByRole("link")
    .click()
  await expect(page.getByText("Commission: Harvest ale")).toBeVisible()
  await type(page, "48286")
  await expect(page).toHaveURL(/48286/)
  await expect(page.locator(".order-stops")).toContainText("a lead can allow it")
})
