import { expect } from "@playwright/test"
import {
  byHand,
  closeDoor,
  closeDoorByMouse,
  plate,
  press,
  scan,
  signIn,
  tabTo,
  test,
  troublesOf,
  type,
  url,
} from "./hands.ts"

test("a pallet from order to closed collection, by mouse alone", async ({ page, request }) => {
  const troubles = troublesOf(page)
  await signIn(page)
  await page.goto(url())
  await page.getByRole("link", { name: /48283/ }).first().click()
  await byHand(page)
  // a double click is one press, although the next step is on the plate before its second half
  await press(page, "Pack 48283")
  await expect(page.locator(".plate.ready strong")).toHaveText("Add pallet P10")
  await page.mouse.down({ clickCount: 2 })
  await page.mouse.up({ clickCount: 2 })
  await page.waitForTimeout(800)
  await expect(page.locator(".carton")).toHaveCount(0)
  await press(page, "Add pallet P10")
  await expect(page.locator(".plate strong")).toHaveText("Scan items onto pallet 1")
  // a tank of 121 lb on each pallet of 42 lb
  await page.getByRole("button", { name: /Pack one of line a/ }).click()
  await expect(page.locator(".carton")).toContainText("163 lb")
  await page.getByLabel("New carton").selectOption("P10")
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await page.getByRole("button", { name: "Pack all of line a on pallet 2" }).click()
  await expect(page.locator(".carton").nth(1)).toContainText("163 lb")
  await page.locator(".carton").nth(1).getByText("Weight and size").click()
  await page.locator(".carton").nth(1).getByLabel("Measured weight, lb").fill("170")
  await page.locator(".carton").nth(1).getByRole("button", { name: "Save" }).first().click()
  await expect(page.locator(".carton").nth(1)).toContainText("170 lb")

  // parcel services say why not, freight stands on the plot with its class
  await page.getByText(/services can't take it/).click()
  await expect(page.locator(".cannot")).toContainText("doesn't take pallets")
  await expect(page.locator(".rate-plot .service")).toHaveCount(2)
  await expect(page.locator(".rates .why")).toContainText("per 100 lb")
  const before = await page.locator(".rates tr.next .strong").textContent()
  await page.getByRole("button", { name: /^liftgate at delivery \+98\.00/ }).click()
  await expect(page.locator(".rates .why")).toContainText("liftgate")
  // the tariff's liftgate is 98.00, without fuel
  const after = await page.locator(".rates tr.next .strong").textContent()
  expect(Math.round((Number(after) - Number(before)) * 100)).toBe(9800)

  await press(page, "Close 2 pallets")
  await press(page, /^Buy and print: \$\d+\.\d\d$/)
  await expect(page.locator(".receipt h2")).toContainText("Ironbark Standard LTL")
  const lading = page
    .locator(".labels-panel")
    .getByRole("row", { name: /bill of lading/ })
    .getByRole("link")
    .first()
  await expect(lading).toBeVisible()
  const paper = await page.request.get(`${url()}${await lading.getAttribute("href")}`)
  expect(paper.headers()["content-type"]).toBe("application/pdf")

  // the truck is there: the driver counts what is none of a number, then what he counts; the paper is made again
  const first = await lading.getAttribute("href")
  const collected = page.locator("#collected-form")
  await collected.getByLabel("Driver", { exact: true }).fill("Ode Vang")
  await collected.getByLabel("Units counted").fill("two")
  await collected.getByRole("button", { name: "Save and print bill of lading" }).click()
  await expect(collected.getByLabel("Units counted")).toHaveAttribute("aria-invalid", "true")
  await collected.getByLabel("Units counted").fill("2")
  await collected.getByRole("button", { name: "Save and print bill of lading" }).click()
  await expect(lading).not.toHaveAttribute("href", first as string)
  await expect(collected.getByLabel("Driver", { exact: true })).toHaveValue("Ode Vang")

  await page.getByRole("link", { name: /^Dock/ }).click()
  await expect(page.locator(".door-plate")).toHaveText("5")
  // one bill over all freight on the truck
  const master = await page.getByRole("link", { name: "master bill of lading" }).getAttribute("href")
  expect((await page.request.get(`${url()}${master}`)).headers()["content-type"]).toBe("application/pdf")
  await closeDoorByMouse(page, "5")
  await page.goto(`${url()}/orders/48283`)
  await expect(page.locator(".order-story")).toContainText("left door 5 with Ironbark Freight")
  const booked = (await (await request.get(`${process.env.VARNOK_CARRIERS}/IRON/v1/ledger`)).json()) as {
    reference: string
    state: string
  }[]
  expect(booked.filter((one) => one.reference === "48283").map((one) => one.state)).toEqual(["booked"])
  expect(troubles).toEqual([])
})

test("cartons become a pallet when freight is chosen, and a label is made void and bought anew", async ({ page }) => {
  const troubles = troublesOf(page)
  await signIn(page)
  await page.goto(`${url()}/pick/48251`)
  await byHand(page)
  await press(page, "Pack 48251")
  await page.getByLabel("with everything left").check()
  await page.getByLabel("New carton").selectOption("K14")
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await expect(page.locator(".carton")).toHaveCount(1)
  await page.getByRole("link", { name: "Ironbark Standard LTL" }).click()
  await press(page, "Put the carton on a pallet")
  await expect(page.locator(".carton-weight .plate-small")).toHaveText("P2")
  // parcel and pallet stand on one plot, those that need another way of standing say so
  await expect(page.locator(".rates")).toContainText("as loose cartons")
  await expect(page.locator(".rate-plot .service").first()).toBeVisible()
  await page.getByRole("link", { name: "Larkspur Ground" }).click()
  await press(page, "Break down the pallet")
  await press(page, "Close the carton")
  await press(page, /^Buy and print/)
  await expect(page.locator(".receipt h2")).toContainText("Larkspur Ground")
  await page.getByRole("button", { name: /^Void/ }).click()
  await expect(page.locator(".receipt")).toHaveCount(0)
  await page.getByRole("link", { name: "Larkspur Express Two" }).click()
  await press(page, /^Buy and print/)
  await expect(page.locator(".receipt h2")).toContainText("Larkspur Express Two")
  await page.goto(`${url()}/orders/48251`)
  await expect(page.locator(".order-story")).toContainText("voided, charge refunded")
  await page.goto(`${url()}/papers`)
  await expect(page.getByRole("row", { name: /48251-1/ }).filter({ hasText: "void" })).toHaveCount(1)
  expect(troubles).toEqual([])
})

test("a shipment abroad, by keyboard alone, from its gap to the closed collection", async ({ page }) => {
  const troubles = troublesOf(page)
  await signIn(page)
  // an order stops with its gaps by name; the terms are filled in, and it goes on
  await type(page, "48237")
  await expect(page.locator(".order-stops")).toContainText("no Incoterms rule")
  await tabTo(page, page.getByLabel("Incoterms 2020 rule"))
  await page.keyboard.type("DAP")
  await tabTo(page, page.getByLabel("Named place"))
  await page.keyboard.type("Trois-Rivières")
  await page.keyboard.press("Enter")
  await expect(page.locator("#scan-answer")).toContainText("saved. The order was checked again")
  await expect(page.locator(".order-stops")).toHaveCount(0)
  await plate(page, "Pick 48237")
  const bin = (await page.locator(".pick-bin").textContent()) as string
  const left = (await page.locator(".pick-count").textContent()) as string
  await type(page, bin)
  await expect(page.locator(".pick-bin.done")).toHaveText(bin)
  await scan(page, "HOP-SAA-5")
  await expect(page.locator("#scan-answer")).toContainText("taken at")
  await type(page, left)
  await plate(page, "Pack 48237")
  // what is typed before the next screen stands there is typed into the last one
  await expect(page).toHaveURL(/\/shipment\/48237$/)
  await expect(page.locator(".ship-table")).toBeVisible()
  await type(page, "K14")
  await expect(page.locator(".carton")).toHaveCount(1)
  await type(page, "all")
  await expect(page.locator(".terms")).toHaveText("DAP Trois-Rivières, Incoterms 2020")
  // kilograms abroad: 6 × 11.2 lb and a carton of 3.1 lb are 70.3 lb, 31.89 kg
  await expect(page.locator(".carton-weight b")).toHaveText("31.89 kg")
  await plate(page, "Close the carton")
  // another service than the proposed one, whose truck others need today
  await tabTo(page, page.getByRole("link", { name: "Meridian World Saver" }))
  await page.keyboard.press("Enter")
  await expect(page.locator(".plate small")).toContainText("Meridian World Saver")
  await page.keyboard.press("Escape")
  await plate(page, /^Buy and print/)
  await expect(page.locator(".receipt")).toContainText("1 of 1 label printed")
  const invoice = page.locator(".labels-panel").getByRole("link", { name: "CI-48237", exact: true })
  const paper = await page.request.get(`${url()}${await invoice.getAttribute("href")}`)
  expect(paper.headers()["content-type"]).toBe("application/pdf")

  await expect(page.locator(".order-promise span")).toContainText("door 6")
  const door = "6"
  await page.keyboard.press("F4")
  await expect(page.locator(".door-plate")).toBeVisible()
  await type(page, `door ${door}`)
  await expect(page.locator(".door-plate")).toHaveText(door)
  const waiting = await page.locator(".door-missing b").allTextContents()
  expect(waiting).toContain("48237-1")
  for (const [index, name] of waiting.entries()) {
    await type(page, name)
    await expect(page.locator(".truck .on-truck")).toHaveCount(index + 1)
  }
  await closeDoor(page, door, "keys")
  await expect(page.locator(".plate strong")).toHaveText(`Door ${door} is closed`)
  expect(troubles).toEqual([])
})

test("Pick on a phone: everything within 390 px, by thumb", async ({ browser }) => {
  const phone = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true })
  const page = await phone.newPage()
  await signIn(page)
  await page.goto(`${url()}/pick/48265`)
  await expect(page.locator(".pick-bin")).toBeVisible()
  const wide = await page.evaluate(() => document.documentElement.scrollWidth)
  expect(wide).toBeLessThanOrEqual(390)
  const button = page.getByRole("button", { name: "Pick without scanning" })
  const box = await button.boundingBox()
  expect(box && box.height >= 44 && box.x >= 0 && box.x + box.width <= 390).toBe(true)
  const bin = (await page.locator(".pick-bin").textContent()) as string
  await scan(page, bin)
  await expect(page.locator(".pick-bin.done")).toHaveText(bin)
  await button.tap()
  await expect(page.locator(".pick-walk tr.pale")).toHaveCount(1)
  await phone.close()
})
