import { expect } from "@playwright/test"
import { signIn, test, url } from "./hands.ts"

test("orders are found by words and conditions, the view is kept, and the file has what is shown", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/orders`)
  // words typed into the scan line are looked for
  await page.locator("#scan-line").fill("bentspoon paul")
  await page.keyboard.press("Enter")
  await expect(page).toHaveURL(/find=bentspoon/)
  // the address changes a moment before the page does
  await expect(page.locator("#find")).toHaveValue("bentspoon paul")
  await expect(page.getByRole("row", { name: /Bentspoon Kitchens/ }).first()).toContainText("Saint Paul MN")
  await page.getByLabel("Promised", { exact: true }).selectOption("tomorrow")
  await expect(page).toHaveURL(/promised=tomorrow/)
  await expect(page.getByRole("row", { name: /48252/ })).toContainText("fragile")
  await expect(page.getByRole("row", { name: /48279/ })).toHaveCount(0)
  await page.getByLabel("View name").fill("Bentspoon tomorrow")
  await page.getByRole("button", { name: "Save view", exact: true }).click()
  await expect(page.getByRole("link", { name: "Bentspoon tomorrow" })).toBeVisible()
  await page.getByRole("link", { name: "All orders" }).click()
  await page.getByRole("link", { name: "Bentspoon tomorrow" }).click()
  await expect(page).toHaveURL(/promised=tomorrow/)
  await expect(page.locator("tbody tr")).toHaveCount(1)
  await expect(page.getByRole("row", { name: /48252/ })).toBeVisible()
  const csv = await page.request.get(
    `${url()}${await page.getByRole("link", { name: "Export CSV" }).getAttribute("href")}`,
  )
  expect(csv.headers()["content-type"]).toContain("text/csv")
  expect((await csv.text()).trim().split("\r\n").length).toBe(2)
  await page.getByRole("button", { name: "Delete the view Bentspoon tomorrow" }).click()
  await expect(page.getByRole("link", { name: "Bentspoon tomorrow" })).toHaveCount(0)
})

test("many orders get a tag from the keyboard alone, it is seen at packing, and one undo takes it back", async ({
  page,
}) => {
  await signIn(page)
  await page.goto(`${url()}/orders?find=lantern&stage=line`)
  const rows = page.locator("tbody tr")
  const shown = await rows.count()
  expect(shown).toBeGreaterThan(1)
  const orderNumber = (await rows.nth(0).locator("th").textContent()) ?? ""
  await page.getByLabel("Select all shown").focus()
  await page.keyboard.press("Space")
  await page.getByLabel("With selected").selectOption("tag")
  await page.locator("#group-tag").fill("two straps")
  await page.keyboard.press("Enter")
  await expect(page.locator(".scan-answer")).toContainText(`${shown} changed.`)
  await expect(rows.nth(0)).toContainText("two straps")
  await page.goto(`${url()}/shipment/${orderNumber}`)
  await expect(page.locator(".tag")).toContainText("two straps")
  await page.goto(`${url()}/pick/${orderNumber}`)
  await expect(page.locator(".tag")).toContainText("two straps")
  await page.goto(`${url()}/orders?tag=two+straps`)
  await expect(rows).toHaveCount(shown)
  await page.getByRole("button", { name: "Undo", exact: true }).click()
  await expect(page.getByText("No orders match.")).toBeVisible()
})

test("what is ticked before the page's scripts have run is chosen when they have", async ({ page, browser }) => {
  await signIn(page)
  let letGo = () => {}
  const held = new Promise<void>((resolve) => {
    letGo = resolve
  })
  // a browser with an empty cache, whose scripts are late
  const fresh = await browser.newContext({ storageState: await page.context().storageState() })
  const slow = await fresh.newPage()
  await slow.route(/\/assets\/.*\.js/, async (route) => {
    await held
    await route.continue()
  })
  await slow.goto(`${url()}/orders?find=lantern&stage=line`, { waitUntil: "commit" })
  const boxes = slow.locator("tbody input[name=order]")
  await boxes.nth(1).check()
  await expect(slow.locator(".plate strong")).not.toHaveText("Change 1 order")
  letGo()
  await expect(slow.locator(".plate strong")).toHaveText("Change 1 order")
  await expect(boxes.nth(1)).toBeChecked()
  await expect(boxes.nth(0)).not.toBeChecked()
  await expect(slow.getByLabel("With selected")).toBeVisible()
  await fresh.close()
})

test("the sales desk finds orders and changes none", async ({ page }) => {
  await signIn(page, "ilse")
  await page.goto(`${url()}/orders?stage=line`)
  await expect(page.locator("tbody tr").first()).toBeVisible()
  await expect(page.locator("input[name=order]")).toHaveCount(0)
  const forced = await page.request.post(`${url()}/orders.data`, {
    form: { intent: "group", what: "hold", order: "1", key: crypto.randomUUID(), query: "" },
    headers: { origin: url() },
  })
  expect(forced.status()).toBe(403)
})
