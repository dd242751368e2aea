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
