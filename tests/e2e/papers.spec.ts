import { execFileSync } from "node:child_process"
import { expect, type Page } from "@playwright/test"
import { byHand, closeDoorByMouse, press, signIn, test, troublesOf, type, url } from "./hands.ts"

/** A paper of the panel of labels, as an independent reader finds it. */
async function read(page: Page, kind: RegExp): Promise<string> {
  const link = page.locator(".labels-panel").getByRole("row", { name: kind }).getByRole("link").first()
  const paper = await page.request.get(`${url()}${await link.getAttribute("href")}`)
  expect(paper.headers()["content-type"]).toBe("application/pdf")
  return execFileSync("pdftotext", ["-layout", "-", "-"], { input: await paper.body() })
    .toString()
    .replace(/\s+/g, " ")
}

test("an export goes from its gaps, filled in place, to printed papers and a closed door", async ({
  page,
  request,
}) => {
  const troubles = troublesOf(page)
  await signIn(page)
  await page.goto(`${url()}/pick/48289`)
  await byHand(page)
  await press(page, "Pack 48289")
  await expect(page.locator(".papers-to-make")).toContainText("commercial invoice")
  await page.getByRole("link", { name: "Customs and freight details" }).click()
  const panel = page.locator(".papers-panel")
  // terms that want an insurance: the order waits for its amount, and says so
  await panel.getByLabel("Incoterm", { exact: true }).selectOption("CIP")
  await panel.getByRole("button", { name: "Save customs details" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Saved.")
  // the gap stands at its field, and that is where typing goes on
  const insurance = panel.locator(".field", { has: page.getByLabel("Insurance, USD") })
  await expect(insurance).toContainText("CIP needs the amount of the insurance")
  await expect(panel.getByLabel("Insurance, USD")).toBeFocused()
  // chosen back it is as it was before
  await panel.getByLabel("Incoterm", { exact: true }).selectOption("DAP")
  await panel.getByRole("button", { name: "Save customs details" }).click()
  await expect(insurance).not.toContainText("CIP needs")
  // two at once: what one ticks stays when the other, whose page is older, saves something else
  const other = await page.context().newPage()
  await other.route(/\/live/, (route) => route.abort())
  await other.goto(page.url())
  await expect(other.locator("#scan-line")).toBeFocused()
  await expect(other.getByLabel("certificate of origin")).not.toBeChecked()
  await panel.getByLabel("certificate of origin").check()
  await panel.getByLabel("Incoterm", { exact: true }).selectOption("CIP")
  await panel.getByRole("button", { name: "Save customs details" }).click()
  await expect(page.locator(".papers-to-make")).toContainText("certificate of origin")
  await other.getByLabel("Remarks on the invoice").fill("fragile glass")
  await other.getByRole("button", { name: "Save customs details", exact: true }).click()
  await expect(other.locator("#scan-answer")).toContainText("Saved.")
  await expect(other.getByLabel("certificate of origin")).toBeChecked()
  await expect(other.getByLabel("Incoterm", { exact: true })).toHaveValue("CIP")
  await expect(insurance).toContainText("CIP needs the amount of the insurance")
  await other.close()
  // a tax number whose check digits are wrong is refused, and nothing that was typed is lost
  await panel.getByLabel("Receiver's tax number").fill("DE136695977")
  await panel.getByLabel("Insurance, USD").fill("12.00")
  await panel.getByRole("button", { name: "Save customs details" }).click()
  await expect(panel).toContainText("isn't a valid VAT number")
  await expect(panel.getByLabel("Insurance, USD")).toHaveValue("12.00")
  await panel.getByLabel("Receiver's tax number").fill("DE136695976")
  await panel.getByRole("button", { name: "Save customs details" }).click()
  await expect(panel).toContainText("Nothing is missing")
  // a code is looked up by words, and the line kept with its item
  await panel.locator("summary").filter({ hasText: "Wireless thermometer" }).click()
  await panel.getByLabel("HS code").fill("thermometer")
  await panel.getByRole("button", { name: "9025.19", exact: true }).click()
  await expect(panel.getByLabel("HS code")).toHaveValue("9025.19")
  await panel.getByLabel("Made of").fill("steel")
  await panel.getByRole("button", { name: "Save line" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Saved.")
  await expect(panel).toContainText("Duty and tax, estimated")
  await panel.getByRole("link", { name: "Back to the rates" }).click()

  await press(page, /^Take carton|^Pack in|^Add carton|^Take/)
  await page.getByRole("button", { name: "Pack all as planned" }).click()
  await press(page, "Close the carton")
  // small cells in equipment: who takes them marks the package
  await expect(page.locator(".papers-to-make")).toContainText("marks for packages")
  await expect(page.locator(".papers-to-make")).toContainText("sent as data")
  const draft = await page.getByRole("link", { name: "commercial invoice" }).getAttribute("href")
  expect((await page.request.get(`${url()}${draft}`)).status()).toBe(200)
  await press(page, /^Buy and print/)
  await expect(page.locator(".receipt h2")).toContainText("Swiftwater World")
  // German for a German customer: 6 × 129.00 and the insurance
  const invoice = await read(page, /commercial invoice/)
  expect(invoice).toContain("Handelsrechnung")
  expect(invoice).toContain("CIP Bremen")
  expect(invoice).toContain("786,00 USD")
  expect(await read(page, /marks for packages/)).toContain("UN3481")
  expect(await read(page, /packing list/)).toContain("48289-1")
  await expect(page.locator(".labels-panel").getByRole("row", { name: /commercial invoice/ })).toContainText(
    "sent as data",
  )
  const theirs = (await (await request.get(`${process.env.VARNOK_CARRIERS}/SWIF/v1/papers`)).json()) as {
    reference: string
    kind: string
  }[]
  expect(theirs.filter((one) => one.reference === "48289").map((one) => one.kind)).toEqual(["invoice"])
  // asked back for, it is printed
  const row = page.locator(".labels-panel").getByRole("row", { name: /commercial invoice/ })
  for (const tick of await page.locator(".labels-panel input[type=checkbox]:checked").all()) await tick.uncheck()
  await row.getByRole("checkbox").check()
  await page
    .getByRole("button", { name: /^Print/ })
    .last()
    .click()
  await expect(row).toContainText("printed 1 time")

  await page.getByRole("link", { name: /^Dock/ }).click()
  await expect(page.locator(".door-plate")).toBeVisible()
  await type(page, "door 8")
  await expect(page.locator(".door-plate")).toHaveText("8")
  await closeDoorByMouse(page, "8")
  expect(troubles).toEqual([])
})

test("pallets with a hazardous line go with it on their bill of lading", async ({ page }) => {
  const troubles = troublesOf(page)
  await signIn(page)
  await page.goto(`${url()}/pick/48288`)
  await byHand(page)
  await press(page, "Pack 48288")
  await page.getByLabel("New carton").selectOption("P10")
  await page.getByLabel("with everything left").check()
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await expect(page.locator(".carton")).toHaveCount(1)
  await expect(page.locator(".papers-to-make")).toContainText("bill of lading")
  await page.getByRole("link", { name: "Customs and freight details" }).click()
  await page.getByLabel("Seal", { exact: true }).fill("S-4711")
  await page.locator(".papers-panel").getByRole("button", { name: "Save bill of lading" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Saved.")
  await page.getByRole("link", { name: "Back to the rates" }).first().click()
  await press(page, "Close the pallet")
  await press(page, /^Buy and print/)
  await expect(page.locator(".receipt h2")).toContainText("LTL")
  const lading = await read(page, /bill of lading/)
  // six drums of 20 L
  expect(lading).toContain("UN1824, Sodium hydroxide solution, 8, PG II 120 L")
  expect(lading).toContain("24-hour emergency phone: +1 800 555 0199")
  expect(lading).toContain("Seal: S-4711")
  expect(await read(page, /pallet label/)).toContain("1 of 1")
  expect(troubles).toEqual([])
})
