import { expect } from "@playwright/test"
import { byHand, signIn, test, url } from "./hands.ts"

test("the suggestion says its price and why; a carton that is too large is packed anew for less, with one key, and back", async ({
  page,
}) => {
  await signIn(page)
  await page.goto(`${url()}/pick/48254`)
  await byHand(page)
  await page.goto(`${url()}/shipment/48254`)
  const suggested = page.locator(".suggested")
  await expect(suggested).toContainText(/Suggested .+ \$\d+\.\d\d in all by /)
  await suggested.getByText("Why these cartons").click()
  await expect(suggested.locator("li").first()).toHaveText(/K\d\d|CB\d/)

  // all of it in the largest carton: that costs more, and the screen says how much
  await page.locator("select").filter({ hasText: "K18" }).first().selectOption("K18")
  await page.getByLabel("with everything left").check()
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  const cost = async () => Number(await page.locator(".rates tr.next .strong").textContent())
  await expect(page.locator(".rates tr.next .strong")).toHaveText(/^\d+\.\d\d$/)
  const before = await cost()
  const advice = page.locator(".advice-list > div").filter({ hasText: "Packed in" })
  await expect(advice).toContainText(/\$\d+\.\d\d less/)
  const less = Number(/\$(\d+\.\d\d) less/.exec((await advice.textContent()) ?? "")?.[1])
  await page.locator("#scan-line").focus()
  await page.keyboard.press("NumpadMultiply")
  // taken back with one press: the carton is there again as it was, and the advice with it
  await page.getByRole("button", { name: "Take it back" }).click()
  await expect(page.locator(".ship-boxes")).toContainText("in, K18")
  await expect(advice).toContainText(/\$\d+\.\d\d less/)
  expect(await cost()).toBe(before)
  await advice.getByRole("button", { name: "Do this" }).click()
  await page.getByRole("button", { name: "Pack all as planned" }).click()
  await expect(page.locator(".rates tr.next .strong")).toHaveText(/^\d+\.\d\d$/)
  // it costs as much less as was said
  expect(before - (await cost())).toBeCloseTo(less, 2)
})

test("sacks go on pallets where that costs less, as said before they are packed", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/pick/48258`)
  await byHand(page)
  await page.goto(`${url()}/shipment/48258`)
  const suggested = page.locator(".suggested")
  const pallets = suggested.locator("form").filter({ hasText: /On \d+ pallets/ })
  await expect(pallets).toContainText(/\$\d+\.\d\d less, /)
  // once pallets are told, the suggestion itself gets no better
  const all = Number(/\$(\d+\.\d\d) in all/.exec((await suggested.textContent()) ?? "")?.[1])
  const less = Number(/\$(\d+\.\d\d) less/.exec((await pallets.textContent()) ?? "")?.[1])
  const n = Number(/On (\d+) pallets/.exec((await pallets.textContent()) ?? "")?.[1])
  await pallets.getByRole("button", { name: "Pack all, on pallets" }).click()
  await expect(page.locator(".ship-boxes")).toContainText(`${n} pallets`)
  const sent = Number(await page.locator(".rates tr.next .strong").textContent())
  // what is said holds handling of cartons and pallets and the cartons too, at a dollar and some cents each
  expect(sent).toBeLessThan(all - less)
  expect(all - less - sent).toBeLessThan(45)
})

test("what would cost less is one list for the day: done with a press, and taken back with another", async ({
  page,
}) => {
  await signIn(page)
  await page.goto(url())
  await page.getByRole("link", { name: "Savings" }).click()
  await expect(page.getByRole("heading", { name: "What would cost less" })).toBeVisible()
  const rows = page.locator(".joining-list tbody tr")
  // every order of the day is packed and priced anew, which takes what it takes on a machine that does more besides
  await expect(rows.first()).toBeVisible({ timeout: 120_000 })
  const savings = (await rows.locator(".strong").allTextContents()).map((text) => Number(text.replace("$", "")))
  expect(savings).toEqual([...savings].sort((a, b) => b - a))
  const sent = rows.filter({ hasText: "From Reno" }).first()
  const number = (await sent.locator("th, td").first().textContent()) ?? ""
  await sent.getByRole("button", { name: "Do this" }).click()
  const done = page.locator(".advice-list > div").filter({ hasText: number })
  await expect(done).toContainText("From Reno")
  await expect(rows.filter({ hasText: number }).filter({ hasText: "From Reno" })).toHaveCount(0)
  await done.getByRole("button", { name: "Take it back" }).click()
  await expect(done).toHaveCount(0)
  await expect(rows.filter({ hasText: number }).filter({ hasText: "From Reno" })).toHaveCount(1)
})
