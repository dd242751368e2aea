import { expect, type Page, type Route } from "@playwright/test"
import { byHand, plate, press, scan, signIn, test, type, url } from "./hands.ts"

const scale = () => process.env.VARNOK_SCALE as string

/** What is read of the stop in hand. */
async function stopNow(page: Page) {
  const codes = await page.locator(".pick-what .code").allTextContents()
  return {
    bin: (await page.locator(".pick-bin").textContent()) as string,
    left: Number(await page.locator(".pick-count").textContent()),
    sku: (codes[0] as string).split(",")[0] as string,
    tote: ((await page.locator(".pick-tote b").textContent()) ?? "").split(/[–\s]/)[0] as string,
  }
}

/** Bin, tote if it is asked for, one piece by scan, the rest as a number. */
async function takeStop(page: Page): Promise<void> {
  const { bin, left, sku, tote } = await stopNow(page)
  if ((await page.locator(".pick-bin.done").count()) === 0) await scan(page, bin)
  await expect(page.locator(".pick-bin.done")).toHaveText(bin)
  if ((await page.locator(".pick-tote.done").count()) === 0) await scan(page, tote)
  await expect(page.locator(".pick-tote.done")).toBeVisible()
  const before = await page.locator(".pick-walk tr.pale").count()
  await scan(page, sku)
  await expect(page.locator("#scan-answer")).toContainText("taken at")
  if (left > 1) await type(page, String(left))
  await expect(page.locator(".pick-walk tr.pale")).toHaveCount(before + 1)
}

test("a run is put together, walked with scans, passed over, undone, left and taken up; a short is counted", async ({
  page,
  browser,
}) => {
  await signIn(page)
  await page.goto(`${url()}/pick`)
  // Tomas walks run 101 since this morning
  await expect(page.locator(".run-cards li").first()).toContainText("Tomas Reyes")
  await page.getByLabel("Orders", { exact: true }).selectOption("hand")
  await expect(page.locator(".run-waiting input").first()).toBeVisible()
  // orders that no other test works on
  for (const orderNumber of ["48266", "48267", "48268"])
    await page.getByRole("checkbox", { name: `Choose ${orderNumber}` }).check()
  await page.locator("#runs-wish").getByLabel("Cart").selectOption({ label: "C1 Tote cart, 8 totes" })
  await page.getByRole("button", { name: "Preview" }).click()
  await expect(page.locator(".proposed b").first()).toContainText("one by one")
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Create \d runs?$/)
  await page.locator(".plate-body").click()
  await expect(page.locator("#scan-answer")).toContainText("Created: 102")
  await type(page, "R102")
  await expect(page).toHaveURL(/\/pick\/runs\/102$/)
  await plate(page, "Start run 102")
  await expect(page.locator(".pick-bin")).toBeVisible()

  // wrong bin, wrong tote, the item before the tote: refused aloud
  const { bin, sku } = await stopNow(page)
  await scan(page, "Z-99-9")
  await expect(page.getByRole("alert")).toContainText("is not this bin")
  await scan(page, bin)
  await expect(page.locator(".pick-bin.done")).toHaveText(bin)
  await scan(page, sku)
  await expect(page.getByRole("alert")).toContainText("Scan the tote first")
  await scan(page, "T212")
  await expect(page.getByRole("alert")).toContainText("is not this tote")
  await takeStop(page)

  // put back, taken again
  const done = await page.locator(".pick-walk tr.pale").count()
  await page.getByRole("button", { name: /^Put back/ }).click()
  await expect(page.locator("#scan-answer")).toContainText("put back into")
  await expect(page.locator(".pick-walk tr.pale")).toHaveCount(done - 1)
  await page.getByRole("button", { name: "Pick without scanning" }).click()
  await expect(page.locator(".pick-walk tr.pale")).toHaveCount(done)

  // passed over comes last
  const passed = await stopNow(page)
  await page.getByRole("button", { name: "Skip for now" }).click()
  await expect(page.locator(".pick-bin")).not.toHaveText(passed.bin)

  // left, and taken up by the lead on a phone
  await page.getByRole("button", { name: "Pause the run" }).click()
  await expect(page.locator(".run-cards")).toContainText("paused, open to anyone")
  const phone = await browser.newPage({ viewport: { width: 390, height: 844 }, hasTouch: true })
  await signIn(phone, "tomas")
  await phone.goto(`${url()}/pick/runs/102`)
  await press(phone, "Continue run 102")
  await expect(phone.locator(".pick-bin")).toBeVisible()
  expect(await phone.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390)

  // pieces are missing: canceled by the lead, and the bin is to be counted
  const short = await stopNow(phone)
  await phone.getByRole("link", { name: "Report a short" }).click()
  await phone.getByLabel("they are damaged").check()
  await phone.getByRole("button", { name: "Cancel them" }).click()
  await expect(phone.locator("#scan-answer")).toContainText(`${short.left} short and canceled`)
  await phone.close()
  await page.goto(`${url()}/pick/counts`)
  const row = page.getByRole("row").filter({ hasText: short.bin }).filter({ hasText: "damaged goods" })
  // more than was known, since other tests want goods of this bin
  await row.getByRole("textbox").fill("500")
  await row.getByRole("button", { name: "Save count", exact: true }).click()
  await expect(page.locator("#scan-answer")).toContainText("compared with the books")

  // papers of the run
  for (const paper of ["list", "slips"]) {
    const pdf = await page.request.get(`${url()}/pick/runs/102/${paper}.pdf`)
    expect(pdf.headers()["content-type"]).toBe("application/pdf")
    expect((await pdf.body()).subarray(0, 5).toString()).toBe("%PDF-")
  }
})

test("the bench takes the suggestion, scans into its cartons, moves by mouse, weighs on the scale, ships a part apart", async ({
  page,
}) => {
  await signIn(page)
  const order = "48264"
  await page.goto(`${url()}/pick/${order}`)
  await byHand(page)
  await press(page, `Pack ${order}`)
  await expect(page.locator(".suggested")).toContainText("Suggested")
  // the cartons are taken empty and know what is to come
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Add (carton K\d\d|\d cartons)$/)
  await page.locator(".plate-body").click()
  await expect(page.locator(".planned").first()).toContainText("to come")
  const regulator = "REG-CO2-1"
  await expect(page.locator(".ship-table")).toContainText(regulator)
  await type(page, "a 1")
  await expect(page.locator("#scan-answer")).toContainText("into carton")
  await page.getByRole("button", { name: "Pack all as planned" }).click()
  await expect(page.locator(".plate strong")).toHaveText(/^Close/)

  // seen into
  await page.getByRole("button", { name: "See inside 1" }).click()
  await expect(page.locator(".depth-drawing")).toBeVisible()
  await page.getByRole("button", { name: "Close", exact: true }).click()

  // another carton, and pieces dragged into it by mouse
  const before = await page.locator(".carton").count()
  await page.locator("#packaging").selectOption("K12")
  // pressed twice in haste it is one carton; a second, empty one would keep the shipment from closing below
  await page.locator(".new-carton button").dblclick()
  await expect(page.locator(".carton")).toHaveCount(before + 1)
  const chip = page.locator(".carton").first().locator(".carton-chips .grip", { hasText: /^4c$/ })
  const words = (await chip.textContent()) as string
  const from = await chip.boundingBox()
  const to = await page.locator(".carton").last().locator("svg").boundingBox()
  if (!from || !to) throw new Error("nothing to drag")
  await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2)
  await page.mouse.down()
  await page.mouse.move(from.x + 30, from.y + 10, { steps: 4 })
  await page.mouse.move(to.x + to.width / 2, to.y + to.height / 2, { steps: 8 })
  await page.mouse.up()
  await expect(page.locator(".carton").last().locator(".carton-chips")).toContainText(words)

  // and taken out again by scans, one by one, until Enter ends it; then put back so that the next step weighs it all
  const drawnIn = (index: number) => page.locator(".carton").nth(index).locator(".carton-chips")
  // typed on while the answer to "1" is under way: the next one waits, and goes with what that answer put in hand
  const slowOnce = async (route: Route) => {
    const answer = await route.fetch()
    await new Promise((after) => setTimeout(after, 1500))
    await route.fulfill({ response: answer })
  }
  await page.route(/\/shipment\/\d+\.data/, slowOnce, { times: 1 })
  await type(page, "1")
  await type(page, `from ${before + 1}`)
  await expect(page.locator(".plate strong")).toHaveText(`Move from ${before + 1} into 1`)
  await type(page, regulator)
  await expect(drawnIn(before)).toContainText("3c")
  await plate(page, /^Move from/)
  await expect(page.locator(".plate strong")).not.toHaveText(/^Move from/)
  await type(page, String(before + 1))
  await expect(page.locator(".carton.hand .plate-small")).toHaveText(String(before + 1))
  await type(page, "c 1 from 1")
  await expect(drawnIn(before)).toContainText("4c")

  // the scale answers by one key; a weight that does not fit says which pieces would explain it
  await page.request.put(`${scale()}/load`, { data: { weight: "44.4", unit: "lb" } })
  await page.locator("#scan-line").focus()
  await page.waitForTimeout(700)
  await page.keyboard.press("NumpadDecimal")
  await expect(page.locator(".carton").last()).toContainText("44.4 lb")
  await expect(page.locator(".carton").last()).toContainText(/count again/i)
  await page.request.put(`${scale()}/faults`, { data: { fault: "over" } })
  await type(page, "w")
  await expect(page.getByRole("alert")).toContainText("overloaded")
  await page.request.put(`${scale()}/faults`, { data: { fault: null } })

  // that carton goes apart
  await page.getByText("Custom size, ship separately").click()
  await page.locator(".apart-acts input[name=chosen]").last().check()
  await page.getByRole("button", { name: "Ship these separately" }).click()
  await expect(page.locator("#scan-answer")).toHaveText(/These packages are now order \d{5}/)
  await plate(page, /^Close/)
  await expect(page.getByRole("link", { name: "Logistic labels" })).toBeVisible()
  await page.getByRole("button", { name: "Print: Logistic labels" }).click()
  await expect(page.locator("#scan-answer")).toHaveText(`logistic-labels-${order} is printing.`)
  for (const paper of ["slips", "logistic"])
    expect((await page.request.get(`${url()}/shipment/${order}/${paper}.pdf`)).headers()["content-type"]).toBe(
      "application/pdf",
    )
})

test("a floor is taken out and in again, and a bad one is refused with every place", async ({ page }) => {
  await signIn(page, "ada")
  const text = await (await page.request.get(`${url()}/set-up/floor-plan/plan.json`)).text()
  const plan = JSON.parse(text) as { bins: { code: string; aisle: string }[] }
  await page.goto(`${url()}/set-up/floor-plan`)
  const send = async (name: string, body: string) => {
    await page
      .getByLabel("Plan (JSON) or bins (CSV)")
      .setInputFiles({ name, mimeType: "text/plain", buffer: Buffer.from(body) })
    await page.getByRole("button", { name: "Import", exact: true }).click()
  }
  await send("plan.json", text)
  await expect(page.locator("#scan-answer")).toContainText(`${plan.bins.length} bins`)
  await page.reload()
  await send(
    "plan.json",
    JSON.stringify({ ...plan, bins: plan.bins.slice(1).map((bin, at) => (at === 0 ? { ...bin, aisle: "Y" } : bin)) }),
  )
  await expect(page.getByRole("alert")).toContainText("there is no aisle Y")
  await send("plan.json", JSON.stringify({ ...plan, bins: plan.bins.filter((bin) => bin.code !== "C-14-2") }))
  await expect(page.getByRole("alert")).toContainText("C-14-2 is not on the plan")
  await send("plan.json", "no plan")
  await expect(page.getByRole("alert")).toContainText("not JSON")
  const csv = await (await page.request.get(`${url()}/set-up/floor-plan/bins.csv`)).text()
  await send("bins.csv", csv.replace(/^(A-03-1,A,)[\d.]+/m, "$1far"))
  await expect(page.getByRole("alert")).toContainText("x_m “far” isn't valid")
  await send("bins.csv", csv)
  await expect(page.locator("#scan-answer")).toContainText(`${plan.bins.length} bins`)
})
