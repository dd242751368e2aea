import { expect, type Page } from "@playwright/test"
import { mailTo, signIn, test, troublesOf, url } from "./hands.ts"

const carriers = () => process.env.VARNOK_CARRIERS as string

/** What the carrier's people scan. */
async function scans(page: Page, event: object): Promise<void> {
  const answer = await page.request.post(`${carriers()}/LARK/v1/events`, { data: event })
  expect(answer.status()).toBe(201)
}

test("a shipment is followed over a delay to its delivery: the customer is told, and has a page of his own", async ({
  page,
  browser,
}) => {
  test.setTimeout(180_000)
  const troubles = troublesOf(page)
  // the carrier sends events by himself, signed with a secret that is shown once
  const admin = await (await browser.newContext()).newPage()
  await signIn(admin, "ada")
  await admin.goto(`${url()}/set-up/tracking`)
  const lark = admin.locator("tr", { hasText: "Larkspur Parcel" }).last()
  await lark.getByRole("button", { name: "Make a secret" }).click()
  await expect(admin.locator("#scan-answer")).toContainText("whsec_")
  const secret = /whsec_\S+/.exec((await admin.locator("#scan-answer").textContent()) ?? "")?.[0]
  const subscribed = await page.request.put(`${carriers()}/LARK/v1/subscriber`, {
    data: { url: `${url()}/hooks/carriers/LARK`, secret },
  })
  expect(subscribed.ok()).toBe(true)
  await admin.context().close()

  await signIn(page)
  await page.goto(`${url()}/orders/48200`)
  const way = page.locator(".on-the-way")
  await expect(way).toContainText("in transit")
  const tracking = (await way.locator(".code").first().textContent()) ?? ""
  const at = { trackingNumber: tracking, place: { city: "Chicago", state: "IL", postalCode: "60601", country: "US" } }
  await scans(page, {
    ...at,
    code: "DLY",
    description: "Snow",
    occurredAt: "2026-11-24T09:00:00-06:00",
    estimatedDelivery: "2026-12-01",
  })

  // it needs somebody: dismissed only with a reason, watched with a note
  await page.goto(`${url()}/orders/attention?find=48200`)
  const row = page.locator(".case-list tbody tr")
  await expect(row).toHaveCount(1, { timeout: 45_000 })
  await expect(row).toContainText("Late")
  await expect(row).toContainText("the carrier now says Tue, Dec 1")
  await row.getByRole("checkbox").check()
  await page.getByRole("button", { name: "Dismiss" }).click()
  await expect(page.getByLabel("Note")).toHaveAttribute("aria-invalid", "true")
  await page.getByLabel("Note").fill("customer knows")
  await row.getByRole("checkbox").check()
  await page.getByRole("button", { name: "Watch" }).click()
  await expect(page.locator("#scan-answer")).toContainText("1 case watched")
  await expect(page.locator(".nothing")).toBeVisible()

  // the customer was told of the day, and his page says it in his words and nothing of cost
  const late = await mailTo(page, "beer@otteralehouse.example", /comes later/)
  expect(late.text).toContain("on Tuesday, December 1 instead of Friday, November 27")
  const link = /http\S+\/follow\/\S+/.exec(late.text ?? "")?.[0] ?? ""
  const phone = await (await browser.newContext({ viewport: { width: 390, height: 800 } })).newPage()
  await phone.goto(link)
  await expect(phone.getByRole("heading", { name: "Your shipment" })).toBeVisible()
  await expect(phone.locator(".receiver")).toContainText("This is later than promised.")
  expect(await phone.locator("body").textContent()).not.toMatch(/USD|\$\d/)
  const wide = await phone.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
  expect(wide).toBeLessThanOrEqual(0)

  // delivered, with a picture as proof
  await scans(page, {
    ...at,
    code: "DEL",
    occurredAt: "2026-11-24T10:30:00-06:00",
    receivedBy: "Pat Otter",
    picture: "door",
  })
  await page.goto(`${url()}/orders/48200`)
  await expect(way).toContainText("received by Pat Otter", { timeout: 45_000 })
  await expect(page.locator(".order-promise")).toContainText("delivered")
  const proof = way.locator("img.proof")
  await expect(proof).toBeVisible()
  expect(await proof.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(96)
  await phone.reload()
  await expect(phone.locator(".receiver-state")).toHaveText("delivered")
  await expect(phone.locator(".receiver")).toContainText("Taken by Pat Otter")
  const done = await mailTo(page, "beer@otteralehouse.example", /was delivered/)
  await page.goto(`${url()}/orders/messages?find=48200`)
  await expect(page.locator(".message-list tbody tr").first()).toContainText("delivered")

  // one press, and he gets no more of them
  const stop = /http\S+\/unsubscribe\/\S+/.exec(done.text ?? "")?.[0] ?? ""
  await phone.goto(stop)
  await phone.getByRole("button", { name: "Stop them" }).click()
  await expect(phone.locator(".receiver")).toContainText("You won't get messages")
  await phone.goto(`${url()}/unsubscribe/1.0123456789012345678901`)
  await expect(phone.locator(".receiver")).toContainText("This page is not here")
  await phone.context().close()
  expect(troubles).toEqual([])
})

test("an address that a carrier can't find is mended: a gap is refused, then he has the new one", async ({ page }) => {
  await signIn(page)
  await page.getByRole("link", { name: /to see to/ }).click()
  await expect(page.getByRole("heading", { name: "Needs attention" })).toBeVisible()
  const row = page.locator(".case-list tbody tr", { hasText: "Address problem" })
  await row.getByText("Send a new address").click()
  const form = row.locator("form")
  await form.getByLabel("Street", { exact: true }).fill("16 Growler Row")
  await form.getByRole("button", { name: /^Send to/ }).click()
  await expect(form.getByLabel("City")).toHaveAttribute("aria-invalid", "true")
  await expect(form.getByLabel("Street", { exact: true })).toHaveValue("16 Growler Row")
  await form.getByLabel("City").fill("Denver")
  await form.getByLabel("State").fill("CO")
  await form.getByLabel("Postal code").fill("80205")
  await form.getByRole("button", { name: /^Send to/ }).click()
  await expect(page.locator("#scan-answer")).toContainText("is on its way to the carrier")
  await page.goto(`${url()}/orders/attention?state=watched`)
  await expect(page.locator(".case-list")).toContainText("carrier has the new address", { timeout: 45_000 })
})

test("what two see at once is settled by one of them, and the other is told so", async ({ page, browser }) => {
  const other = await (await browser.newContext()).newPage()
  // he presses before his page has read what changed
  await other.route("**/live*", (route) => route.abort())
  await signIn(page)
  await signIn(other, "tomas")
  for (const one of [page, other]) {
    await one.goto(`${url()}/orders/attention?kind=damaged`)
    await one.getByRole("checkbox", { name: /Damaged/ }).check()
  }
  await page.getByLabel("Note").fill("customer keeps it at a discount")
  await page.getByRole("button", { name: "Dismiss" }).click()
  await expect(page.locator("#scan-answer")).toContainText("1 case dismissed")
  await expect(page.getByLabel("Note")).toHaveCount(0)
  await other.getByRole("button", { name: "Watch" }).click()
  await expect(other.locator("#scan-answer")).toContainText("None of these cases is still open")
  await expect(other.locator(".nothing")).toBeVisible()
  await other.goto(`${url()}/orders/attention?kind=damaged&state=let-go`)
  await expect(other.locator(".case-list tbody tr")).toContainText("customer keeps it at a discount")
  await other.context().close()
})

test("a source is told by files in a folder, under its own names; wrong ones are refused and kept", async ({
  page,
}) => {
  await signIn(page, "ada")
  await page.goto(`${url()}/set-up/sources/file`)
  const form = page.locator("#reporting-form")
  const save = form.getByRole("button", { name: "Save" })
  await form.getByLabel("How").selectOption({ label: "CSV files in a folder" })
  await form.getByLabel("Folder").fill("../shop")
  await save.click()
  await expect(form.getByLabel("Folder")).toHaveAttribute("aria-invalid", "true")
  await form.getByLabel("Folder").fill("shop")
  await form.getByLabel(/Their names/).fill("order_number = Order\ntracking = Order")
  await save.click()
  await expect(form.locator(".field-error")).toContainText("would be the name of two fields")
  await expect(form.getByLabel("Folder")).toHaveValue("shop")
  await form.getByLabel(/Their names/).fill("order_number = Order")
  await form.getByLabel("Wait until someone sends them").check()
  await save.click()
  await expect(page.locator("#scan-answer")).toContainText("Saved")
  await page.reload()
  await expect(form.getByLabel("How")).toHaveValue("folder-csv")

  await page.goto(`${url()}/orders/reports?find=48193`)
  const row = page.locator(".case-list tbody tr")
  await expect(row).toHaveCount(1)
  await page.getByRole("button", { name: "Send selected" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Select")
  await row.getByRole("checkbox").check()
  await page.getByRole("button", { name: "Send selected" }).click()
  await expect(page.locator("#scan-answer")).toContainText("1 report on the way")
  await expect(row).toContainText("sent", { timeout: 45_000 })

  // as it was: other tests ship orders of this source, and see it told by itself
  await page.goto(`${url()}/set-up/sources/file`)
  await form.getByLabel("How").selectOption({ label: "posted to its address" })
  await form.getByLabel(/Their names/).fill("")
  await form.getByLabel("Wait until someone sends them").uncheck()
  await save.click()
  await expect(page.locator("#scan-answer")).toContainText("Saved")
  await page.reload()
  await expect(form.getByLabel("How")).toHaveValue("http")
  await expect(form.getByLabel("Wait until someone sends them")).not.toBeChecked()
})

test("a template that asks for what is not there is refused, previewed with an order, and kept", async ({ page }) => {
  await signIn(page, "tomas")
  await page.goto(`${url()}/set-up/messages`)
  const form = page.locator("#template-form")
  await form.getByLabel("Text").fill("It cost {{ cost }}.")
  await form.getByRole("button", { name: "Save" }).click()
  await expect(page.locator("#scan-answer")).toContainText("undefined variable: cost")
  await form.getByLabel("Text").fill("{{ sender }} sends <b>{{ order }}</b>. {{ link }}")
  await form.getByLabel("With order").fill("48193")
  await form.getByRole("button", { name: "Preview" }).click()
  const preview = page.frameLocator("iframe.mail-preview")
  await expect(preview.locator("body")).toContainText("sends <b>SO-70101</b>.")
  await form.getByRole("button", { name: "Save" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Template saved")
  await page.getByRole("button", { name: "Back to the original" }).click()
  await expect(page.locator("#scan-answer")).toContainText("The original is back")
})
