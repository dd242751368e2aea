import { expect, type Locator, type Page } from "@playwright/test"
import { simpleParser } from "mailparser"
import { byHand, closeDoor, mailTo, press, signIn, test, troublesOf, url } from "./hands.ts"

/** Opens the door of a carrier on the dock. */
async function toDoor(page: Page, door: string): Promise<void> {
  await page.getByRole("link", { name: /^Dock/ }).click()
  await expect(page.locator(".door-plate")).toBeVisible()
  if ((await page.locator(".door-plate").textContent()) !== door)
    await page.locator("a.door", { has: page.locator(".shutter b").getByText(door, { exact: true }) }).click()
  await expect(page.locator(".door-plate")).toHaveText(door)
}

/** Writes a zigzag into the field for a signature. */
async function sign(page: Page, within: Locator = page.locator("body")): Promise<void> {
  const field = within.locator("canvas.signature-pad")
  const clear = within.locator(".signature").getByRole("button", { name: "Clear" })
  await field.scrollIntoViewIfNeeded()
  const box = await field.boundingBox()
  if (!box) throw new Error("no field to sign")
  await expect(clear).toBeVisible()
  for (let tries = 0; tries < 5 && (await clear.isDisabled()); tries += 1) {
    await page.mouse.move(box.x + 20, box.y + 20)
    await page.mouse.down()
    for (let at = 1; at <= 12; at += 1) await page.mouse.move(box.x + 20 + at * 14, box.y + (at % 2 ? 70 : 20))
    await page.mouse.up()
  }
  await expect(clear).toBeEnabled()
}

test("a day's last hour: a booked truck, one left behind, a signature, a reopened door, a form mailed to two", async ({
  page,
  browser,
}) => {
  const troubles = troublesOf(page)
  const admin = await (await browser.newContext()).newPage()
  const lead = await (await browser.newContext()).newPage()

  // who is told of forms: one more address than the demo has; what is none is refused at its field
  await signIn(admin, "ada")
  await admin.goto(`${url()}/set-up/handover`)
  const forms = admin.locator("#add-forms")
  await forms.getByLabel("E-mail").fill("dispatch@northlake")
  await forms.getByRole("button", { name: "Add address" }).click()
  await expect(forms.getByLabel("E-mail")).toHaveAttribute("aria-invalid", "true")
  await forms.getByLabel("E-mail").fill("dispatch@northlake.example")
  await forms.getByRole("button", { name: "Add address" }).click()
  await expect(admin.locator("#scan-answer")).toContainText("dispatch@northlake.example is added")
  await admin.context().close()
  await signIn(lead, "tomas")

  // a truck that comes only when it is booked: too little time is refused, then the carrier's number stands at the door
  await signIn(page)
  await toDoor(page, "5")
  await page.locator(".door-booking").getByRole("link", { name: "Book a collection" }).click()
  const ask = page.locator("#collect-form")
  await expect(ask.getByLabel("Pieces")).toHaveValue("1")
  await ask.getByLabel("Contact").fill("Maren Holt")
  await ask.getByLabel("Ready from").fill("12:30")
  await ask.getByRole("button", { name: "Book the collection" }).click()
  await expect(ask.getByLabel("Latest by")).toHaveAttribute("aria-invalid", "true")
  await expect(ask.getByLabel("Contact")).toHaveValue("Maren Holt")
  await ask.getByLabel("Ready from").fill("11:00")
  await ask.getByRole("button", { name: "Book the collection" }).click()
  await expect(page.locator(".booking-list")).toContainText("IRONC00001", { timeout: 30_000 })
  await expect(page.locator(".plate small")).toContainText("is booked already")
  await toDoor(page, "5")
  await expect(page.locator(".door-booking")).toContainText("Collection IRONC00001")

  // one goes, one stays: a count that differs needs a reason, and what was signed before is still there
  await toDoor(page, "3")
  const missing = page.locator(".door-missing li")
  await expect(missing).toHaveCount(2)
  await missing
    .nth(1)
    .getByRole("button", { name: /^Leave behind/ })
    .click()
  await expect(page.locator(".door-missing .behind")).toHaveCount(1)
  await missing.nth(0).getByRole("button", { name: /^Load/ }).click()
  await expect(page.locator(".truck .on-truck")).toHaveCount(1)
  const driver = page.locator("#driver-form")
  await expect(driver).toBeVisible()
  await driver.getByLabel("Name").fill("Otis Rook")
  await driver.getByLabel("Units counted").fill("2")
  await sign(page)
  await driver.getByRole("button", { name: "Save driver" }).click()
  await expect(driver.getByLabel("Why it differs")).toHaveAttribute("aria-invalid", "true")
  await driver.getByLabel("Units counted").fill("1")
  await driver.getByRole("button", { name: "Save driver" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Driver at door 3 saved")
  await closeDoor(page, "3", "mouse")
  await expect(page.locator(".plate strong")).toHaveText("Door 3 is closed")
  const row = page.locator(".door-forms li")
  await expect(row).toContainText("1 package")
  await expect(row).toContainText("not sent yet")

  // the lead reopens it in a session of his own; the clerk sees it, and may not do so himself
  await expect(page.getByRole("button", { name: "Reopen the door" })).toHaveCount(0)
  await lead.goto(page.url())
  await lead.getByRole("button", { name: "Reopen the door" }).click()
  await expect(lead.locator("#scan-answer")).toContainText("Door 3 is open again")
  await expect(page.locator(".door-missing .behind")).toHaveCount(1)
  await expect(page.locator(".door-forms li")).toHaveCount(0)
  await closeDoor(page, "3", "mouse")
  await page.getByRole("button", { name: "Send now" }).click()
  await expect(page.locator("#scan-answer")).toContainText("The closing of door 3 is sent")
  await lead.reload()
  await expect(lead.getByRole("button", { name: "Reopen the door" })).toHaveCount(0)

  // what came later goes on a supplementary form
  await page.getByRole("button", { name: "Add packages" }).click()
  await expect(page.locator(".form-closed")).toContainText("1 package has left before")
  await page
    .locator(".door-missing")
    .getByRole("button", { name: /^Load after all/ })
    .click()
  await expect(page.locator(".door-missing .behind")).toHaveCount(0)
  await page
    .locator(".door-missing")
    .getByRole("button", { name: /^Load / })
    .click()
  await expect(page.locator(".truck .on-truck")).toHaveCount(1)
  await closeDoor(page, "3", "mouse")
  await expect(page.locator(".door-forms li")).toHaveCount(2)
  await expect(page.locator(".door-forms li").nth(1)).toContainText("supplementary")
  await page.getByRole("button", { name: "Send now" }).click()
  await expect(page.locator("#scan-answer")).toContainText("is sent")

  // a third door; the form is found again, and its paper is there
  await toDoor(page, "11")
  await page
    .locator(".door-missing")
    .getByRole("button", { name: /^Load / })
    .first()
    .click()
  await expect(page.locator(".truck .on-truck")).toHaveCount(1)
  await closeDoor(page, "11", "mouse")
  await page.goto(`${url()}/dock/forms?find=boreal`)
  const found = page.locator("tbody tr")
  // the form of the closing that was undone is kept, and is no longer in force
  await expect(found).toHaveCount(3)
  await expect(found.filter({ hasText: "discarded" })).toHaveCount(1)
  const paper = await page.request.get(`${url()}${await found.first().getByRole("link").first().getAttribute("href")}`)
  expect(paper.headers()["content-type"]).toBe("application/pdf")
  // both forms went to both addresses, each once
  const mailbox = process.env.VARNOK_MAILBOX as string
  await expect(async () => {
    const sent = (await (await page.request.get(`${mailbox}/messages`)).json()) as { number: number; to: string[] }[]
    const mails = await Promise.all(
      sent.map(async ({ number, to }) => {
        const mail = await simpleParser(await (await page.request.get(`${mailbox}/messages/${number}.eml`)).body())
        return { to: to.join(), subject: mail.subject ?? "", attached: mail.attachments.length }
      }),
    )
    const own = mails.filter((one) => one.subject.startsWith("Boreal Runner"))
    expect(own.map((one) => one.to).sort()).toEqual([
      "dispatch@northlake.example",
      "dispatch@northlake.example",
      "freight.desk@northlake.example",
      "freight.desk@northlake.example",
    ])
    for (const one of own) expect(one.attached).toBe(1)
  }).toPass({ timeout: 30_000 })
  expect(troubles).toEqual([])
  await lead.context().close()
})

test("a customer fetches an order at the counter, and another carrier's number is typed for one", async ({ page }) => {
  const troubles = troublesOf(page)
  await signIn(page)
  await page.goto(`${url()}/pick/48222`)
  await byHand(page)
  await press(page, "Pack 48222")
  await page.getByLabel("with everything left").check()
  await page.getByLabel("New carton").selectOption("K14")
  await page.getByRole("button", { name: "Add carton", exact: true }).click()
  await expect(page.locator(".carton")).toHaveCount(1)
  await press(page, "Close the carton")
  await expect(page.locator(".plate.ready strong")).toHaveText(/^Buy and print/)
  await page.goto(`${url()}/orders/48222`)
  // who fetches it is told that it waits, once a day, however often the button is pressed
  const telling = page.locator(".tell-customer")
  await telling.getByText("Note, recipients and attachments").click()
  await telling.getByLabel(/^Also to/).fill("ida@brook")
  await telling.getByRole("button", { name: "Save" }).click()
  await expect(page.locator("#scan-answer")).toContainText("ida@brook")
  await telling.getByLabel(/^Also to/).fill("ida@brook.example")
  await telling.getByRole("button", { name: "Save" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Messages for 48222 set")
  await telling.getByRole("button", { name: "Tell them it's ready" }).click()
  await expect(page.locator("#scan-answer")).toContainText(/\d (person|people) told/)
  await telling.getByRole("button", { name: "Tell them it's ready" }).click()
  await expect(page.locator("#scan-answer")).toContainText("told earlier today")
  expect((await mailTo(page, "ida@brook.example", /ready for pickup/)).text).toContain("1 Fermenter Quay, Duluth")
  await page.getByText("Hand over to the customer").click()
  const form = page.locator("#handed-form")
  await form.getByLabel("Received by").fill("Ida Brook")
  await form.getByRole("button", { name: "Hand over" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Have it signed")
  await expect(form.getByLabel("Received by")).toHaveValue("Ida Brook")
  await sign(page)
  await form.getByRole("button", { name: "Hand over" }).click()
  await expect(page.locator(".handed")).toContainText("Ida Brook")
  await expect(page.locator(".order-promise")).toContainText("delivered")
  const receipt = page.locator(".handed").getByRole("link", { name: "pickup receipt" })
  const paper = await page.request.get(`${url()}${await receipt.getAttribute("href")}`)
  expect(paper.headers()["content-type"]).toBe("application/pdf")

  await page.goto(`${url()}/orders/tracking`)
  await page.locator("#file").setInputFiles({
    name: "couriers.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("order_number,carrier,tracking\n48223,Harbor Couriers,HC-10001\n48224,Harbor Couriers,bad\n"),
  })
  await page.locator("#tracking-form").getByRole("button", { name: "Preview the file" }).click()
  await expect(page.locator("tbody tr")).toHaveCount(1)
  await press(page, "Record 1 order")
  await expect(page.locator(".place-head")).toContainText("1 order recorded, 1 refused", { timeout: 30_000 })
  await page.goto(`${url()}/orders/48223`)
  await expect(page.locator(".where")).toContainText("Shipped with Harbor Couriers")
  await expect(page.locator(".where")).toContainText("HC-10001")
  expect(troubles).toEqual([])
})

test("our own van: its round is planned, left, and confirmed stop by stop on a phone", async ({ page }) => {
  const troubles = troublesOf(page)
  await signIn(page)
  await page.getByRole("button", { name: "Reno" }).click()
  await expect(page.locator(".top-warehouses .here")).toHaveText("Reno")
  await toDoor(page, "9")
  const missing = page.locator(".door-missing").getByRole("button", { name: /^Load / })
  for (let left = 5; left > 0; left -= 1) {
    await expect(missing).toHaveCount(left)
    await missing.first().click()
  }
  await expect(page.locator(".truck .on-truck")).toHaveCount(5)
  const round = page.getByRole("link", { name: "Delivery round", exact: true })
  await round.click()
  await page.getByRole("button", { name: "Plan the round" }).click()
  await expect(page.locator(".round-stops > li")).toHaveCount(5)
  const sheet = await page.getByRole("link", { name: "Sheet to sign" }).getAttribute("href")
  expect((await page.request.get(`${url()}${sheet}`)).headers()["content-type"]).toBe("application/pdf")
  const address = page.url()
  await toDoor(page, "9")
  // another order is still to go with it: closing early says so
  await page.locator(".door-early input[type=checkbox]").check()
  await page.getByRole("button", { name: "Close door 9 early" }).click()
  await expect(page.locator(".plate strong")).toHaveText("Door 9 is closed")

  await page.setViewportSize({ width: 390, height: 844 })
  await page.goto(address)
  const stops = page.locator(".round-stops > li")
  const first = stops.nth(0)
  await first.getByText("Mark this stop").click()
  await first.getByLabel("Received by").fill("Ida Brook")
  await first.getByText("Sign on the screen").click()
  await sign(page, first)
  await first.getByRole("button", { name: "Delivered", exact: true }).click()
  await expect(first).toContainText("received by Ida Brook")
  await expect(first.locator("svg.signature-pad")).toBeVisible()
  const second = stops.nth(1)
  await second.getByText("Mark this stop").click()
  await second.getByRole("button", { name: "Not delivered" }).click()
  await expect(page.locator("#scan-answer")).toContainText("Say why it wasn't delivered")
  await second.getByLabel("Why not").fill("closed today")
  await second.getByRole("button", { name: "Not delivered" }).click()
  await expect(second).toContainText("closed today")
  await page.getByRole("button", { name: "Mark all 3 open stops delivered" }).click()
  await expect(page.locator(".round-stops > li.done")).toHaveCount(4)
  await page.goto(`${url()}/dock/rounds`)
  await expect(page.locator("tbody tr").first()).toContainText("4 delivered, 0 open, 1 not delivered")
  expect(troubles).toEqual([])
})
