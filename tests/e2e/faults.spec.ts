import { type APIRequestContext, expect, type Page } from "@playwright/test"
import { byHand, press, printer, signIn, test, url } from "./hands.ts"

const fault = (request: APIRequestContext, address: string, name: string | null) =>
  request.put(`${address}/faults`, { data: { fault: name } })

// what failed half-way leaves no printer down for the others
test.afterEach(({ request }) => fault(request, printer(), null).then(() => undefined))

/** Picks and packs an order with the mouse alone; what was not scanned counts as not verified. */
async function packByMouse(page: Page, orderNumber: string): Promise<void> {
  await page.goto(`${url()}/pick/${orderNumber}`)
  await byHand(page)
  await press(page, `Pack ${orderNumber}`)
  await page.getByLabel("with everything left").check()
  await page.getByLabel("New carton").selectOption("K14")
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await expect(page.locator(".carton")).toHaveCount(1)
}

test("by mouse alone: packing, weight and size for this shipment, another service, and a printer that is down", async ({
  page,
  request,
}) => {
  await signIn(page)
  await packByMouse(page, "48240")
  await page.getByText("Weight and size").click()
  await page.getByLabel("Height", { exact: true }).fill("20")
  await page.locator(".carton-sheet").getByRole("button", { name: "Save" }).nth(1).click()
  await expect(page.locator(".carton")).toContainText("29 × 18.5 × 20 in, K14, size entered by hand")
  await page.getByLabel("Measured weight, lb").fill("heavy")
  await page.locator(".carton-sheet").getByRole("button", { name: "Save" }).first().click()
  await expect(page.getByRole("alert")).toContainText("Type a number such as 12.4")
  await page.getByLabel("Measured weight, lb").fill("31,5")
  await page.locator(".carton-sheet").getByRole("button", { name: "Save" }).first().click()
  await expect(page.locator(".carton")).toContainText("31.5 lb")
  // 19 lb too many: it closes once somebody has counted what is in it
  await expect(page.locator(".plate.ready")).toHaveCount(0)
  await page.getByLabel("Pieces of line a counted in 1").fill("3")
  await page.getByRole("button", { name: "Save count", exact: true }).click()
  await press(page, "Close the carton")
  await expect(page.locator(".plate strong")).toHaveText(/^Buy and print/)
  await page.getByRole("link", { name: "Larkspur Express Two" }).click()
  await expect(page.locator(".plate small")).toContainText("Larkspur Express Two")

  await fault(request, printer(), "down")
  await press(page, /^Buy and print/)
  await expect(page.locator(".receipt h2")).toContainText("Larkspur Express Two")
  await expect(page.locator(".receipt")).toContainText("0 of 1 label printed")
  await page.goto(`${url()}/papers`)
  const label = page.getByRole("row", { name: /48240-1/ })
  await expect(label).toContainText("waiting")
  // it goes on by itself when the printer is there again
  await fault(request, printer(), null)
  await expect(label).toContainText("printed")
})

test("a carrier that is down is marked, asked again, and the booking can be given up", async ({ page, request }) => {
  const meridian = `${process.env.VARNOK_CARRIERS}/MERI`
  await signIn(page)
  await packByMouse(page, "48244")
  await press(page, "Close the carton")
  await page.getByRole("link", { name: "Meridian Saver" }).click()
  await expect(page.locator(".plate small")).toContainText("Meridian Saver")
  await fault(request, meridian, "down")
  await press(page, /^Buy and print/)
  await expect(page.locator(".plate strong")).toHaveText("Asking Meridian Air")
  await expect(page.locator(".plate small")).toContainText("is not answering")
  // asked while it is down, so that no answer comes before the wish
  await page.getByRole("button", { name: "Cancel this booking" }).click()
  await expect(page.locator(".plate small")).toContainText("Booking canceled")
  await expect(page.getByRole("button", { name: "Cancel this booking" })).toHaveCount(0)
  await fault(request, meridian, null)
  await expect(page.locator("#scan-answer")).toContainText("canceled at Meridian Air")
  await expect(page.locator(".rates")).toContainText("can't be booked now")
  const booked = (await (await request.get(`${meridian}/v1/ledger`)).json()) as { reference: string; state: string }[]
  expect(booked.filter((entry) => entry.reference === "48244" && entry.state === "booked")).toEqual([])
})
