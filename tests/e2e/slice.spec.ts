import { readFileSync } from "node:fs"
import { expect } from "@playwright/test"
import { closeDoor, plate, printer, scan, signIn, tabTo, test, type, url } from "./hands.ts"

/** GTINs of the demo's goods by SKU, as a clerk would read them off the pack. */
const gtin: Record<string, string> = {}

test("from an order file to a closed collection, by keyboard and scans alone", async ({ page, request }) => {
  const troubles: string[] = []
  page.on("pageerror", (error) => troubles.push(error.message))
  page.on("console", (message) => {
    if (message.type() === "error") troubles.push(message.text())
  })

  // listened for from the start: the browser must know it before the chooser is opened
  page.on("filechooser", (chooser) => void chooser.setFiles("demo/files/orders-noon.csv"))

  // 1 sign in
  await page.goto(`${url()}/`)
  await expect(page.getByLabel("User name")).toBeFocused()
  await page.keyboard.type("maren")
  await page.keyboard.press("Tab")
  await page.keyboard.type("cellar-door")
  await page.keyboard.press("Enter")
  await expect(page.locator(".day-band")).toBeVisible()
  await expect(page.locator("#scan-line")).toBeFocused()

  // 2 an order file comes in
  await tabTo(page, page.getByRole("link", { name: "Orders", exact: true }))
  await page.keyboard.press("Enter")
  await plate(page, "Import a file")
  await tabTo(page, page.getByLabel(/Order file/))
  await page.keyboard.press("Space")
  await expect(page.getByLabel(/Order file/)).toHaveValue(/orders-noon\.csv$/)
  await page.keyboard.press("Escape")
  await plate(page, "Preview the file")
  await expect(page.getByText("7 orders in 11 rows, 3 rows refused")).toBeVisible()
  const refusals = page.locator(".refused-rows li")
  await expect(refusals.nth(0)).toContainText("line 7 SO-71003: sku “HOP-GONE-9” is not in the item catalog")
  await expect(refusals.nth(1)).toContainText("line 9 SO-71005: promised_on “24.11.2026” is not a date")
  await expect(refusals.nth(2)).toContainText("line 12 SO-71007: quantity “three” is not a whole number")
  await plate(page, "Import 6 orders")
  await expect(page.locator(".plate strong")).toHaveText("Back to the day")
  const orderNumber = (
    await page
      .getByRole("row", { name: /SO-71001/ })
      .getByText(/imported as \d{5}/)
      .textContent()
  )?.match(/\d{5}/)?.[0] as string

  // 3 the day holds it
  await page.keyboard.press("F2")
  await expect(page.getByRole("link", { name: new RegExp(orderNumber) })).toBeVisible()

  // 4 pick: a wrong bin and a wrong item are refused
  await type(page, orderNumber)
  // scanned before the order's page is there: it waits for it, and is read by it
  await scan(page, "Z-99-9")
  await expect(page).toHaveURL(new RegExp(`/pick/${orderNumber}`))
  await expect(page.locator(".pick-walk tbody tr").first()).toBeVisible()
  await expect(page.getByRole("alert")).toContainText("is not this bin")
  const stops = await page.locator(".pick-walk tbody tr").count()
  expect(stops).toBe(3)
  for (let stop = 0; stop < stops; stop += 1) {
    const bin = (await page.locator(".pick-bin").textContent()) as string
    const left = Number(await page.locator(".pick-count").textContent())
    const codes = await page.locator(".pick-what .code").allTextContents()
    const sku = (codes[0] as string).split(",")[0] as string
    const levels = (codes.at(-1) as string).split(", ").map((level) => level.split(" "))
    gtin[sku] = levels[0]?.[1] as string
    const whole = levels.find(([, , count]) => Number(count?.replace(/\D/g, "")) === left)
    await scan(page, bin)
    await expect(page.locator(".pick-bin.done")).toHaveText(bin)
    if (stop === 0) {
      await scan(page, "09521234001492")
      await expect(page.getByRole("alert")).toContainText("is not this item")
    }
    if (whole) await scan(page, whole[1] as string)
    else {
      await scan(page, gtin[sku] as string)
      await expect(page.locator("#scan-answer")).toContainText("taken at")
      if (left > 1) await type(page, String(left))
    }
    await expect(page.locator(".pick-walk tbody tr.pale")).toHaveCount(stop + 1)
  }

  // 5 pack into two cartons; the measured weight wins
  await plate(page, `Pack ${orderNumber}`)
  await expect(page).toHaveURL(new RegExp(`/shipment/${orderNumber}`))
  await plate(page, /Add carton K\d\d/)
  await expect(page.locator(".carton")).toHaveCount(1)
  await scan(page, gtin["YST-ALE-500"] as string)
  await expect(page.locator("#scan-answer")).toHaveText("1 × YST-ALE-500 into carton 1")
  await type(page, "a 3")
  await expect(page.locator("#scan-answer")).toHaveText("3 × YST-ALE-500 into carton 1")
  await scan(page, gtin["YST-ALE-500"] as string)
  await expect(page.getByRole("alert")).toContainText("too many")
  await type(page, "c")
  await expect(page.locator("#scan-answer")).toHaveText("24 × CLA-15-EPDM into carton 1")
  await type(page, "K12")
  await expect(page.locator(".carton")).toHaveCount(2)
  await type(page, "all")
  await expect(page.locator(".plate strong")).toHaveText("Close 2 cartons")
  await type(page, "27.9 lb")
  await expect(page.locator(".carton").nth(1)).toContainText("27.9 lb")
  await expect(page.locator(".carton").nth(1)).toContainText("measured")

  // 6 rates: by parcel three of Larkspur, two of Meridian, the post and an express, on a pallet two of Ironbark; the
  // others of the thirty-one say why not
  await expect(page.locator(".rate-plot .service")).toHaveCount(9)
  await expect(page.locator(".cannot summary")).toHaveText("22 services can't take it")
  await expect(page.locator(".rates .why")).toContainText("fuel: 15.75%")

  // 7 buy, once, even when Enter comes twice
  await plate(page, "Close 2 cartons")
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Buy and print: \$\d+\.\d\d$/)
  await page.waitForTimeout(650)
  const price = (await page.locator(".plate strong").textContent())?.match(/\$([\d.]+)/)?.[1] as string
  await page.keyboard.press("Enter")
  await page.keyboard.press("Enter")
  await expect(page.locator(".receipt h2")).toContainText(`$${price}`)
  await expect(page.locator(".receipt")).toContainText("2 of 2 labels printed")
  const printed = (await (await request.get(`${printer()}/jobs`)).json()) as {
    id: number
    queue: string
    pages: number
    media: string
  }[]
  const labels = printed.filter((job) => job.queue === "labels").slice(-2)
  expect(labels.map((job) => [job.pages, job.media])).toEqual([
    [1, "na_index-4x6_4x6in"],
    [1, "na_index-4x6_4x6in"],
  ])
  expect((await request.get(`${printer()}/jobs/${labels[0]?.id}/1.png`)).headers()["content-type"]).toBe("image/png")

  // 8 the dock: everything for the door is scanned, then the collection is closed
  await page.keyboard.press("F4")
  await expect(page.locator(".door-plate")).toBeVisible()
  await type(page, "door 4")
  await expect(page.locator(".door-plate")).toHaveText("4")
  const waiting = await page.locator(".door-missing b").allTextContents()
  expect(waiting).toEqual(expect.arrayContaining([`${orderNumber}-1`, `${orderNumber}-2`]))
  await expect(page.locator(".plate small")).toContainText("waiting for")
  for (const [index, name] of waiting.entries()) {
    await type(page, name)
    await expect(page.locator(".truck .on-truck")).toHaveCount(index + 1)
  }
  await closeDoor(page, "4", "keys")
  await expect(page.locator(".plate strong")).toHaveText("Door 4 is closed")
  await expect(page.locator("#scan-answer")).toContainText("DLH-261124-4-1415")
  // a lead could still reopen it; the truck is leaving, so that the carrier and the source are told now
  await tabTo(page, page.getByRole("button", { name: "Send now" }))
  await page.keyboard.press("Enter")
  await expect(page.locator("#scan-answer")).toContainText("The closing of door 4 is sent")

  // the order is gone, and its story says how
  await type(page, orderNumber)
  await expect(page).toHaveURL(new RegExp(`/orders/${orderNumber}`))
  await expect(page.locator(".sent-with")).toContainText(/Larkspur Ground, arrives \w+, \w+ \d+/)
  const story = page.locator(".order-story")
  for (const told of [
    "imported from orders-noon.csv",
    "picking started",
    "everything picked",
    "2 packages closed",
    "booked for",
    "loaded on the truck at door 4",
    "left door 4 with Larkspur Parcel",
  ]) {
    await expect(story).toContainText(told)
  }
  await expect(async () => {
    await page.reload()
    await expect(story).toContainText("reported to the source", { timeout: 500 })
  }).toPass({ timeout: 30_000 })
  expect(troubles).toEqual([])
})

test("the same file again makes no second order", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/orders/intake`)
  await page
    .getByLabel(/Order file/)
    .setInputFiles({ name: "again.csv", mimeType: "text/csv", buffer: readFileSync("demo/files/orders-noon.csv") })
  await page.getByRole("button", { name: "Preview", exact: true }).click()
  await expect(page.getByText(/already here as \d{5}, unchanged/)).toHaveCount(6)
  await expect(page.locator(".plate strong")).toHaveText("Nothing new to import")
})
