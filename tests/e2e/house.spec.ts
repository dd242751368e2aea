import { AxeBuilder } from "@axe-core/playwright"
import { expect, type Page } from "@playwright/test"
import { scan, signIn, test, url } from "./hands.ts"

const screens = [
  "/",
  "/orders",
  "/orders/intake",
  "/orders/intake/1",
  "/pick",
  "/pick?by=all&cart=1&most=6",
  "/pick/runs/101",
  "/pick/runs/101?short=1",
  "/pick/counts",
  "/pick/48218",
  "/shipment/48215",
  "/shipment/48211",
  "/dock",
  "/dock/forms",
  "/dock/messages",
  "/dock/rounds",
  "/dock/staging",
  "/dock/book?carrier=LARK",
  "/orders/tracking",
  "/orders/attention",
  "/orders/returns",
  "/orders/claims",
  "/orders/claims/1",
  "/orders/returns/48194-R1",
  "/orders/messages",
  "/orders/reports",
  "/orders/48193",
  "/set-up/handover",
  "/set-up/tracking",
  "/set-up/messages",
  "/papers",
  "/orders/new",
  "/set-up/items",
  "/set-up/stock?find=hop&place=1",
  "/set-up/floor-plan",
  "/set-up/packaging",
  "/set-up/addresses",
  "/set-up/sources",
  "/set-up/sources/dealers",
  "/set-up/customers",
  "/set-up/screening",
  "/orders/joining",
  "/orders/cheaper",
  "/set-up/rules",
  "/set-up/patterns",
  "/set-up/carriers",
  "/set-up/carriers/VANS/1",
  "/set-up/charging",
  "/orders/quotes",
  "/orders/quotes/new",
  "/orders/runs",
  "/shipment/48219?drawing=variants",
  "/shipment/48219?drawing=map",
  "/shipment/48281?papers",
  "/set-up/border",
  "/set-up/shifts",
  "/set-up/outside",
  "/set-up/users",
  "/set-up/api",
  "/set-up/changes",
]
const stopped = "48237"

async function serious(page: Page): Promise<string[]> {
  // the old mode needs no page of its own for each look; what is right is only counted, since that is most of the time
  const { violations } = await new AxeBuilder({ page })
    .setLegacyMode()
    .options({
      runOnly: { type: "tag", values: ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"] },
      rules: { "target-size": { enabled: true } },
      resultTypes: ["violations"],
    })
    .analyze()
  return violations
    .filter((one) => one.impact === "serious" || one.impact === "critical")
    .map(
      (one) =>
        `${one.id}: ${one.nodes
          .map((node) => node.target.join(" "))
          .slice(0, 4)
          .join(" | ")}`,
    )
}

test("every screen hydrates without a word, has no serious violation for axe, and is useful before scripts", async ({
  page,
  context,
  browser,
}) => {
  const troubles: string[] = []
  const listen = (own: Page) => {
    own.on("pageerror", (error) => troubles.push(`${own.url()}: ${error.message}`))
    own.on("console", (message) => {
      if (["error", "warning"].includes(message.type())) troubles.push(`${own.url()}: ${message.text()}`)
    })
  }
  await page.goto(`${url()}/sign-in`)
  expect(await serious(page)).toEqual([])
  listen(page)
  await signIn(page, "ada")
  const plain = await browser.newContext({ javaScriptEnabled: false, storageState: await context.storageState() })
  const missing = "/orders/99999"
  const all = [...screens, `/orders/${stopped}`, missing]
  const found: { screen: string; found: string[] }[] = []
  // one look at each, two screens side by side, since each takes seconds of a processor
  const lane = async (own: Page, still: Page) => {
    for (let screen = all.shift(); screen !== undefined; screen = all.shift()) {
      await own.goto(`${url()}${screen}`)
      if (screen !== missing) await expect(own.locator("#scan-line")).toBeFocused()
      found.push({ screen, found: await serious(own) })
      await still.goto(`${url()}${screen}`)
      if (screen !== missing) await expect(still.locator(".plate strong")).not.toBeEmpty()
    }
    // the browser of these tests lives in Tokyo; the trucks are in Duluth
    await still.goto(url())
    await expect(still.locator(".day-head .time").first()).toHaveText("13:30")
  }
  const second = await context.newPage()
  listen(second)
  await Promise.all([lane(page, await plain.newPage()), lane(second, await plain.newPage())])
  await plain.close()
  expect(found.filter((one) => one.found.length > 0)).toEqual([])
  expect(found.length).toBe(screens.length + 2)
  // a page that is not there is answered with 404, which the browser tells
  expect(troubles.filter((one) => !one.startsWith(`${url()}${missing}: Failed to load resource`))).toEqual([])
})

test("the scan line works without scripts", async ({ page, browser }) => {
  await signIn(page)
  const plain = await browser.newContext({
    javaScriptEnabled: false,
    storageState: await page.context().storageState(),
  })
  const still = await plain.newPage()
  await still.goto(url())
  await still.locator("#scan-line").fill(stopped)
  await still.keyboard.press("Enter")
  await expect(still).toHaveURL(new RegExp(`/orders/${stopped}`))
  await expect(still.locator(".order-stops")).toContainText("no Incoterms rule")
  await plain.close()
})

test("nothing moves while a page settles", async ({ page }) => {
  await signIn(page)
  for (const screen of ["/", "/shipment/48215", "/dock"]) {
    await page.goto(`${url()}${screen}`)
    const shift = await page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          let sum = 0
          new PerformanceObserver((list) => {
            for (const entry of list.getEntries() as (PerformanceEntry & { value: number; hadRecentInput: boolean })[])
              if (!entry.hadRecentInput) sum += entry.value
          }).observe({ type: "layout-shift", buffered: true })
          setTimeout(() => resolve(sum), 800)
        }),
    )
    expect({ screen, small: shift < 0.02 }).toEqual({ screen, small: true })
  }
})

test("a scan while the focus is elsewhere is a scan, and the field keeps its text", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/orders`)
  await page.getByLabel("Number, customer, place, item").fill("den")
  await page.waitForTimeout(100)
  await scan(page, "48218")
  await expect(page).toHaveURL(/\/pick\/48218/)
})

test("Enter right after a scan does not move the plate", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/papers`)
  await scan(page, "A-99-9", 2)
  await expect(page.getByRole("alert")).toContainText("Nothing here matches")
  await expect(page).toHaveURL(/\/papers/)
})

test("data that are let go because one goes elsewhere are no error; other faults are told", async ({ page }) => {
  const troubles: string[] = []
  page.on("pageerror", (error) => troubles.push(error.message))
  await signIn(page)
  await page.goto(`${url()}/papers`)
  await page.evaluate(() => {
    void Promise.reject(new DOMException("signal is aborted without reason", "AbortError"))
    void Promise.reject(new Error("a fault"))
  })
  await expect.poll(() => troubles).toContain("a fault")
  expect(troubles).toEqual(["a fault"])
})

test("a field that one went to meanwhile keeps the focus when the answer is there", async ({ page }) => {
  await signIn(page, "ada")
  await page.goto(`${url()}/set-up/shifts`)
  let letGo = () => {}
  const held = new Promise<void>((resolve) => {
    letGo = resolve
  })
  // the answer comes at once, the page's fresh data later; a request that was superseded meanwhile counts as given
  let given = 0
  await page.route(/set-up\/shifts\.data/, async (route) => {
    if (route.request().method() !== "GET") return route.continue()
    await held
    await route
      .fetch()
      .then((response) => route.fulfill({ response }))
      .catch(() => {})
    given += 1
  })
  const bin = page.getByLabel("per bin")
  await bin.fill("lots")
  await page.locator(".plate-body").click()
  await expect(page.getByRole("alert")).toContainText("Enter minutes from")
  await bin.click()
  letGo()
  await expect.poll(() => given).toBeGreaterThan(0)
  await page.waitForTimeout(400)
  await expect(bin).toBeFocused()
})

test("the server keeps strangers, other sites and guessers out", async ({ page, request, playwright }) => {
  const asked = await request.get(`${url()}/orders`, { maxRedirects: 0 })
  expect(asked.status()).toBe(302)
  expect(asked.headers().location).toBe("/sign-in?to=%2Forders")
  const headers = (await request.get(`${url()}/sign-in`)).headers()
  expect(headers["content-security-policy"]).toMatch(/script-src 'self' 'nonce-[^']+';/)
  expect(headers["content-security-policy"]).not.toMatch(/script-src[^;]*unsafe/)
  expect(headers["x-content-type-options"]).toBe("nosniff")
  expect(headers["x-request-id"]).toMatch(/^[\w-]{8,}$/)
  expect(await (await request.get(`${url()}/healthz`)).json()).toEqual({ ok: true })

  const other = await request.post(`${url()}/sign-in`, {
    form: { username: "maren", password: "cellar-door" },
    headers: { origin: "https://elsewhere.example" },
    maxRedirects: 0,
  })
  expect(other.status()).toBe(403)
  const none = await request.post(`${url()}/sign-in`, {
    form: { username: "maren", password: "cellar-door" },
    maxRedirects: 0,
  })
  expect(none.status()).toBe(403)

  const guesser = await playwright.request.newContext({ extraHTTPHeaders: { origin: url() } })
  const statuses = []
  for (let tries = 0; tries < 10; tries += 1)
    statuses.push(
      (
        await guesser.post(`${url()}/sign-in`, { form: { username: "guessed", password: "wrong" }, maxRedirects: 0 })
      ).status(),
    )
  expect(statuses.slice(0, 8).every((status) => status === 401)).toBe(true)
  expect(statuses.slice(8)).toEqual([429, 429])

  // a clerk may not end a stop that was set by hand: the screen does not offer it, and the server refuses it
  await signIn(page)
  await page.goto(`${url()}/orders/48219`)
  await page.getByRole("button", { name: "Stop this order" }).click()
  await expect(page.locator(".order-stops")).toContainText("the lead can release it")
  await expect(page.getByRole("button", { name: "Release", exact: true })).toHaveCount(0)
  const forced = await page.request.post(`${url()}/orders/48219`, {
    form: { intent: "release" },
    headers: { origin: url() },
  })
  expect(forced.status()).toBe(403)
  await page.getByRole("button", { name: "Sign out" }).click()
  await page.waitForURL(/\/sign-in$/)
  await signIn(page, "tomas")
  await page.goto(`${url()}/orders/48219`)
  await page.getByRole("button", { name: "Release", exact: true }).click()
  await expect(page.locator(".order-stops")).toHaveCount(0)
})

test("a bad file is refused in words and changes nothing", async ({ page }) => {
  await signIn(page)
  const upload = async (name: string, buffer: Buffer) => {
    await page.goto(`${url()}/orders/intake`)
    await page.getByLabel(/Order file/).setInputFiles({ name, mimeType: "text/csv", buffer })
    await page.getByRole("button", { name: "Preview", exact: true }).click()
    return page.locator(".upload [role=alert]")
  }
  const row = `SO-1,2026-11-23,Elk Run,14 Growler Row,Denver,CO,80205,BUN-10,1,${"long notes ".repeat(1000)}\n`
  const large = `order_number,ordered_on,customer,street,city,state,postal_code,sku,quantity,notes\n${row.repeat(Math.ceil((41 * 1024 * 1024) / row.length))}`
  await expect(await upload("utf16.csv", Buffer.from("\ufefforder_number,sku", "utf16le"))).toContainText(
    "missing from the header: ordered_on",
  )
  await expect(await upload("picture.csv", Buffer.from([137, 80, 78, 71, 0, 0]))).toContainText("not a text file")
  await expect(await upload("large.csv", Buffer.from(large))).toContainText("larger than 40 MB")
  await expect(page.locator(".plain-list").first()).not.toContainText("large.csv")
})

test("the trays show what was printed", async ({ page }) => {
  await signIn(page)
  await page.goto(`${url()}/papers`)
  const tray = await page.getByRole("link", { name: /See the output tray/ }).getAttribute("href")
  await page.goto(tray as string)
  const first = page.locator("img").first()
  await expect(first).toBeVisible()
  expect(
    await first.evaluate((image: HTMLImageElement) => image.decode().then(() => image.naturalWidth)),
  ).toBeGreaterThan(600)
})
