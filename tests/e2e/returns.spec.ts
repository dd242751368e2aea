import { expect } from "@playwright/test"
import { PNG } from "pngjs"
import { mailTo, plate, scan, signIn, test, troublesOf, url } from "./hands.ts"

test("goods come back from their label into stock: scanned in at the dock, counted, moved on, seen by two", async ({
  page,
  browser,
}) => {
  test.setTimeout(180_000)
  const troubles = troublesOf(page)
  const answer = page.locator("#scan-answer")
  await signIn(page)

  // the customer is given a label
  await page.goto(`${url()}/orders/48199`)
  const labels = page.getByRole("region", { name: "Return labels" })
  await labels.getByText("New return label").click()
  await labels.getByRole("button", { name: "See prices" }).click()
  await labels
    .getByRole("button", { name: /^Get it/ })
    .first()
    .click()
  const link = labels.getByRole("link", { name: "48199-R1" })
  await expect(link).toBeVisible({ timeout: 30_000 })
  const tracking = (await labels.locator(".code").first().textContent()) ?? ""
  expect(tracking).not.toBe("")

  // somebody else looks at it meanwhile
  const other = await (await browser.newContext()).newPage()
  await signIn(other, "tomas")
  await other.goto(`${url()}/orders/returns/48199-R1`)
  await expect(other.locator(".place-head p b").first()).toHaveText("expected")

  // at the dock: a code that nobody knows is not lost, the label is known
  await page.goto(`${url()}/orders/returns`)
  await scan(page, "NOSUCH77")
  await expect(page.locator(".without-label")).toContainText("No shipment has the code NOSUCH77.")
  await page.getByRole("button", { name: "Record it" }).click()
  await expect(answer).toHaveText(/^Recorded as U\d+\.$/)
  await scan(page, tracking)
  await expect(answer).toHaveText("48199-R1 is here, 1 of 1.")
  await scan(page, "48199-R1.1")
  await expect(answer).toHaveText("48199-R1 was here already.")
  await expect(other.locator(".place-head p b").first()).toHaveText("to check")

  // counted by scanning: one more than went out is refused, and what was typed is still there
  await page.getByRole("link", { name: "48199-R1", exact: true }).click()
  const good = page.getByLabel("BOT-AMB-500, good")
  await expect(good).toBeVisible()
  await scan(page, "BOT-AMB-500")
  // the demo's GTIN of it: GS1's demonstration prefix 9521234, item 109, check digit 6 by hand: the weighted sum is 74
  for (let times = 0; times < 2; times += 1) await scan(page, "9521234001096")
  await expect(good).toHaveValue("3")
  await plate(page, "Record 3 pieces")
  await expect(answer).toContainText("3 pieces of BOT-AMB-500 came back, but only 2 went out.")
  await expect(good).toHaveValue("3")
  // what is no number is said at once and recorded by nothing; what was counted outlasts that the page is loaded again
  await good.fill("1o")
  await expect(page.locator(".plate strong")).toHaveText("Correct the count")
  await expect(page.getByText("Enter a whole number of pieces for BOT-AMB-500.")).toBeVisible()
  await expect(page.getByRole("button", { name: "Record count" })).toBeDisabled()
  await expect(page.getByRole("button", { name: "Finish checking" })).toBeDisabled()
  await good.fill("1")
  await page.getByLabel("Note on BOT-AMB-500").fill("cracked")
  await page.reload()
  await expect(good).toHaveValue("1")
  await expect(page.getByLabel("Note on BOT-AMB-500")).toHaveValue("cracked")
  // a scan while the count is on its way is the next one's
  let letGo = () => {}
  const held = new Promise<void>((resolve) => {
    letGo = resolve
  })
  await page.route("**/returns/48199-R1.data**", async (route) => {
    if (route.request().method() === "POST") await held
    await route.continue()
  })
  await page.locator("#scan-line").focus()
  await plate(page, "Record 1 piece")
  await page.getByLabel("damaged", { exact: true }).check()
  await page.locator("#scan-line").focus()
  await scan(page, "BOT-AMB-500")
  await expect(page.getByRole("button", { name: "Record count" })).toBeDisabled()
  letGo()
  await expect(answer).toHaveText("1 piece counted into K-12-1.")
  await page.unroute("**/returns/48199-R1.data**")
  await expect(good).toHaveValue("")
  await expect(page.getByLabel("BOT-AMB-500, damaged")).toHaveValue("1")
  await expect(page.getByRole("button", { name: "Finish checking" })).toBeDisabled()
  await page.getByLabel("Note on BOT-AMB-500").fill("cracked")
  await page.locator("#scan-line").focus()
  await plate(page, "Record 1 piece")
  await expect(answer).toHaveText("1 piece counted into K-12-1.")
  await plate(page, "Finish checking")
  await expect(answer).toHaveText("48199-R1 is checked.")

  // the good one goes back on its shelf; a bin that there is not is refused
  const sound = page.locator(".back-found li", { hasText: "good" })
  await sound.getByText("Move it on").click()
  await sound.getByLabel("Bin").fill("NOWHERE")
  await sound.getByRole("button", { name: "Put back in bin" }).click()
  await expect(answer).toHaveText("There is no bin NOWHERE here.")
  await sound.getByLabel("Bin").fill("A-03-1")
  await sound.getByRole("button", { name: "Put back in bin" }).click()
  await expect(answer).toHaveText("1 piece back in A-03-1.")

  // the broken one is scrapped by a lead, who says why
  await expect(page.getByRole("button", { name: "Scrap" })).toHaveCount(0)
  const broken = other.locator(".back-found li", { hasText: "damaged" })
  await expect(broken).toContainText("1 in K-12-1")
  await broken.getByText("Move it on").click()
  await broken.getByRole("button", { name: "Scrap" }).click()
  await expect(other.locator("#scan-answer")).toHaveText("Enter why it is scrapped.")
  await broken.getByLabel("Why, if scrapped").fill("neck cracked")
  await broken.getByRole("button", { name: "Scrap" }).click()
  await expect(other.locator("#scan-answer")).toHaveText("1 piece scrapped.")
  await expect(page.locator(".place-head p b").first()).toHaveText("done")

  // and it is in stock, with what it came by
  await other.goto(`${url()}/set-up/stock?find=BOT-AMB-500`)
  await other.getByRole("link", { name: "A-03-1" }).click()
  await expect(other.locator(".movements")).toContainText("48199-R1")
  await other.context().close()

  // who only sells does not come here
  const sales = await (await browser.newContext()).newPage()
  await signIn(sales, "ilse")
  expect((await sales.goto(`${url()}/orders/returns`))?.status()).toBe(403)
  await sales.context().close()
  expect(troubles).toEqual([])
})

test("a claim goes from the damaged package to the carrier with its photo, and is paid", async ({ page, browser }) => {
  test.setTimeout(120_000)
  const troubles = troublesOf(page)
  const answer = page.locator("#scan-answer")
  await signIn(page)
  // from its order: somebody may have dismissed the case meanwhile
  await page.goto(`${url()}/orders/48199`)
  const way = page.locator(".on-the-way")
  await way.locator("summary", { hasText: "File a claim" }).click()
  await way.getByLabel("For", { exact: true }).selectOption("damage")
  await way.getByRole("button", { name: "File a claim for 48199-1" }).click()
  // one was begun for it: that is the one
  await expect(page.getByRole("heading", { name: "CL-1" })).toBeVisible()
  const photo = page.getByLabel(/^Photo, JPEG or PNG/)
  await photo.setInputFiles({ name: "wet.png", mimeType: "image/png", buffer: Buffer.from("no picture") })
  await page.getByRole("button", { name: "Add photo" }).click()
  await expect(answer).toHaveText("The file is neither a PNG nor a JPEG.")
  await photo.setInputFiles({
    name: "wet.png",
    mimeType: "image/png",
    buffer: PNG.sync.write(new PNG({ width: 60, height: 40 })),
  })
  await page.getByRole("button", { name: "Add photo" }).click()
  await expect(answer).toHaveText("wet.png added.")
  // somebody else has it open, and is told that it was changed
  const other = await (await browser.newContext()).newPage()
  await signIn(other, "tomas")
  await other.goto(`${url()}/orders/claims/1`)
  await other.waitForFunction(() => Object.keys(document.body).some((name) => name.startsWith("__reactFiber")))
  await other.getByLabel("What happened").fill("Otherwise")
  // the sums follow what is typed: one case at 13.20, half of the freight
  await page.getByLabel("Pieces of BOT-AMB-500").fill("1")
  await expect(page.locator(".claim-sums dd").first()).toHaveText("$13.20")
  // what is typed and not saved would not go along
  await expect(page.getByText("Save your changes before you file the claim.")).toBeVisible()
  for (const name of ["E-mail it to claims@larkspur.example", "Filed by hand"])
    await expect(page.getByRole("button", { name })).toBeDisabled()
  await page.bringToFront()
  await page.locator("#scan-line").focus()
  await plate(page, "Save claim")
  await expect(answer).toHaveText("Claim CL-1 saved.")
  await expect(other.getByLabel("Pieces of BOT-AMB-500")).toHaveValue("1")
  await other.getByRole("button", { name: "Save claim", exact: true }).click()
  await expect(other.locator("#scan-answer")).toContainText("Someone else changed this claim.")
  await expect(other.getByLabel("What happened")).toHaveValue("Otherwise")
  await other.context().close()
  await page.locator("#scan-line").focus()
  await plate(page, "E-mail the claim")
  await expect(answer).toHaveText("Claim CL-1 filed, e-mailed to claims@larkspur.example.")
  const mail = await mailTo(page, "claims@larkspur.example", /^Claim CL-1, shipment LA/)
  expect(mail.attachments.map((one) => one.contentType)).toEqual(["application/pdf"])
  const became = page.locator("#answer-to")
  await became.selectOption("paid")
  await page.getByLabel("Paid", { exact: true }).fill("999")
  await page.getByRole("button", { name: "Save", exact: true }).click()
  await expect(answer).toHaveText(/^That is more than the \d+\.\d\d that was claimed\.$/)
  await page.getByLabel("Paid", { exact: true }).fill("20.00")
  await page.getByRole("button", { name: "Save", exact: true }).click()
  await expect(answer).toHaveText("Claim CL-1 is paid.")
  await page.goto(`${url()}/orders/claims?list=settled`)
  await expect(page.locator(".case-list")).toContainText("$20.00")
  expect(troubles).toEqual([])
})
