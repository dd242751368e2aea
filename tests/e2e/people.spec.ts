import { type Browser, expect, type Page } from "@playwright/test"
import { byHand, signIn, test, url } from "./hands.ts"

async function another(browser: Browser, name: string, password?: string): Promise<Page> {
  const page = await (await browser.newContext()).newPage()
  await signIn(page, name, password)
  return page
}

test("two clerks see each other and each other's work, and an edit on old ground is refused", async ({
  page,
  browser,
}) => {
  await signIn(page)
  const tomas = await another(browser, "tomas")
  await page.goto(`${url()}/pick/48273`)
  await tomas.goto(`${url()}/pick/48273`)
  await expect(page.locator(".people")).toHaveText("Tomas Reyes has this open too")
  await expect(tomas.locator(".people")).toHaveText("Maren Holt has this open too")
  // what one takes is gone from the other's list without a reload
  const stops = await page.locator(".pick-walk tbody tr").count()
  await page.getByRole("button", { name: "Pick without scanning" }).click()
  await expect(tomas.locator(".pick-walk tr.pale")).toHaveCount(1)
  await byHand(tomas)
  await expect(page.locator(".plate strong")).toHaveText("Pack 48273")
  await expect(page.locator(".pick-walk tr.pale")).toHaveCount(stops)

  await page.goto(`${url()}/orders/48274`)
  await tomas.goto(`${url()}/orders/48274`)
  await expect(page.locator(".people")).toHaveText("Tomas Reyes has this open too")
  await page.locator("#attention").fill("Cellar")
  await tomas.locator("#attention").fill("Sample room")
  await tomas.locator("#phone").fill("555 0142")
  await tomas.getByRole("button", { name: "Save address", exact: true }).click()
  await expect(tomas.locator("#scan-answer")).toContainText("saved")
  // what Maren types stays, though the page hears of the change
  await expect(page.locator(".order-story")).toContainText("address changed")
  await expect(page.locator("#attention")).toHaveValue("Cellar")
  await page.getByRole("button", { name: "Save address", exact: true }).click()
  await expect(page.getByRole("alert")).toContainText("Tomas Reyes changed this: Attention “Sample room”")
  // and outlasts the refusal beside what Tomas changed; saved again with both known, it stands
  await expect(page.locator("#attention")).toHaveValue("Cellar")
  await expect(page.locator("#phone")).toHaveValue("555 0142")
  await page.getByRole("button", { name: "Save address", exact: true }).click()
  await expect(page.locator("#scan-answer")).toContainText("saved")
  await expect(page.locator("#attention")).toHaveValue("Cellar")
  await tomas.close()
})

test("the sales desk sees orders and tracking, buys nothing, and sees no cost", async ({ page }) => {
  await signIn(page, "ilse")
  await expect(page.getByRole("navigation", { name: "Places" }).getByRole("link")).toHaveText([
    /Day/,
    /Orders/,
    /Setup/,
  ])
  await page.goto(`${url()}/orders/48203`)
  await expect(page.locator(".order-story")).toContainText("booked for")
  const text = (await page.locator(".order").textContent()) ?? ""
  // what the customer is charged is all of the money that the sales desk sees
  const freight = (await page.locator(".order-freight").textContent()) ?? ""
  expect(freight).toMatch(/^Freightcharged\d+\.\d\d USD$/)
  expect(text.replace(freight, "")).not.toMatch(/\d+\.\d\d USD|\$\d/)
  await expect(page.locator(".order-packages .code").first()).toBeVisible()
  await expect(page.getByRole("button", { name: "Save address", exact: true })).toBeDisabled()
  for (const place of [
    "/shipment/48215",
    "/pick/48215",
    "/dock",
    "/papers",
    "/set-up/users",
    "/set-up/changes",
    "/orders/intake",
  ]) {
    const answer = await page.request.get(`${url()}${place}`)
    expect([place, answer.status()]).toEqual([place, 403])
  }
  const forced = await page.request.post(`${url()}/orders/48215.data`, {
    form: { intent: "hold" },
    headers: { origin: url() },
  })
  expect(forced.status()).toBe(403)
})

test("an administrator adds a user and a token; the order sent with it shows in another's browser by itself", async ({
  page,
  browser,
  request,
}) => {
  const maren = await another(browser, "maren")
  await maren.goto(`${url()}/orders`)
  await signIn(page, "ada")
  await page.goto(`${url()}/set-up/users`)
  await page.locator("#new-name").fill("Nils Aas")
  await page.locator("#new-username").fill("nils")
  await page.locator("#new-password").fill("short")
  await page.getByRole("button", { name: "Add user", exact: true }).click()
  await expect(page.getByRole("alert")).toContainText("Use at least 15 characters")
  await page.locator("#new-password").fill("barley by the bay")
  await page.getByRole("button", { name: "Add user", exact: true }).click()
  await expect(page.getByRole("row", { name: /Nils Aas/ })).toContainText("clerk")
  const nils = await another(browser, "nils", "barley by the bay")
  // everybody changes his own, and goes on where he is
  const elsewhere = await another(browser, "nils", "barley by the bay")
  await elsewhere.goto(`${url()}/orders?find=yeast`)
  await nils.getByRole("link", { name: "Nils Aas, your account" }).click()
  await nils.getByLabel("Current password").fill("wrong")
  await nils.getByLabel("New password", { exact: true }).fill("oats by the shore")
  await nils.getByLabel("New password again").fill("oats by the shore")
  await nils.getByRole("button", { name: "Change password", exact: true }).click()
  await expect(nils.getByRole("alert")).toContainText("current password is wrong")
  await nils.getByLabel("Current password").fill("barley by the bay")
  await nils.getByRole("button", { name: "Change password", exact: true }).click()
  await expect(nils.getByRole("status").first()).toContainText("Other browsers are signed out")
  // the other one is asked to sign in, by itself, and comes back to where it was
  await expect(elsewhere).toHaveURL(/\/sign-in\?to=%2Forders%3Ffind%3Dyeast/)
  await elsewhere.getByLabel("User name").fill("nils")
  await elsewhere.getByLabel("Password").fill("oats by the shore")
  await elsewhere.getByRole("button", { name: "Sign in", exact: true }).click()
  await expect(elsewhere).toHaveURL(/\/orders\?find=yeast/)
  await elsewhere.close()
  await nils.close()
  await (await another(browser, "nils", "oats by the shore")).close()

  await page.goto(`${url()}/set-up/api`)
  await page.getByLabel("System").fill("Shop in test")
  await page.getByRole("button", { name: "Create token", exact: true }).click()
  const token = (await page.locator(".made-token code").textContent()) as string
  const sent = await request.post(`${url()}/api/v1/orders`, {
    headers: { authorization: `Bearer ${token}`, "idempotency-key": "e2e-order-1" },
    data: {
      number: "API-1",
      orderedOn: "2026-11-24",
      customer: "Elk Run Taproom",
      shipTo: { street: "14 Growler Row", city: "Denver", state: "CO", postalCode: "80205", kind: "business" },
      lines: [{ sku: "YST-ALE-500", quantity: 2 }],
    },
  })
  expect(sent.status()).toBe(201)
  await expect(maren.getByRole("row", { name: /API-1/ })).toBeVisible()
  await page.goto(`${url()}/set-up/changes`)
  await expect(page.locator("table")).toContainText("token Shop in test created for 90 days")
  await expect(page.locator("table")).toContainText("account nils added as clerk")
  await page.goto(`${url()}/set-up/api`)
  await page.getByRole("button", { name: "Revoke token Shop in test" }).click()
  await expect(page.locator("#scan-answer")).toContainText("revoked")
  const refused = await request.get(`${url()}/api/v1/orders/API-1`, { headers: { authorization: `Bearer ${token}` } })
  expect(refused.status()).toBe(401)
  await maren.close()
})

test("the second warehouse has its own day: other doors, another time", async ({ page }) => {
  await signIn(page, "tomas")
  const duluth = await page.locator(".day-night .clock").textContent()
  await page.getByRole("button", { name: "Reno" }).click()
  await expect(page.locator(".top-warehouses .here")).toHaveText("Reno")
  await expect(page.locator(".day-head .carrier").first()).toHaveText("Sledgeway Lines")
  const reno = await page.locator(".day-night .clock").textContent()
  const minutes = (text: string | null) => {
    const [h, m] = (text ?? "").split(":").map(Number)
    return (h as number) * 60 + (m as number)
  }
  // Los Angeles is two hours behind Chicago; a minute may pass between the two looks
  expect(Math.abs(minutes(duluth) - minutes(reno) - 120)).toBeLessThanOrEqual(1)
  await page.goto(`${url()}/orders/48213`)
  await expect(page.getByText("Nothing here")).toBeVisible()
  await expect(page.locator(".trouble")).toContainText("No order, paper or place has this address")
  await page.goto(url())
  await page.getByRole("button", { name: "Duluth" }).click()
  await expect(page.locator(".top-warehouses .here")).toHaveText("Duluth")
  await expect(page.locator(".day-head .carrier").first()).not.toHaveText("Sledgeway Lines")
})

test("setup is searched by what is set there; nothing is found that one may not see", async ({ page }) => {
  await signIn(page, "ada")
  await page.goto(`${url()}/set-up/items`)
  const pages = page.getByRole("navigation", { name: "Setup" }).getByRole("link")
  const all = await pages.count()
  expect(all).toBe(23)
  await page.getByLabel("Find in setup").fill("weight toler")
  await expect(pages).toHaveText(["Packaging"])
  await page.getByLabel("Find in setup").fill("no such thing")
  await expect(page.getByText("Nothing in setup matches “no such thing”.")).toBeVisible()
  await page.getByLabel("Find in setup").press("Escape")
  await expect(pages).toHaveCount(all)
  await page.getByLabel("Find in setup").fill("fuel")
  await page.getByLabel("Find in setup").press("Enter")
  await expect(page).toHaveURL(/\/set-up\/carriers$/)
  await page.getByRole("button", { name: "Sign out" }).click()
  await page.waitForURL(/\/sign-in$/)
  await signIn(page, "ilse")
  await page.goto(`${url()}/set-up/items`)
  await page.getByLabel("Find in setup").fill("fuel")
  await expect(pages).toHaveCount(0)
})
