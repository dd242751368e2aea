import { expect, type Locator, type Page, test as plain } from "@playwright/test"
import { type ParsedMail, simpleParser } from "mailparser"

/** The house of this worker, as `start.ts` tells of them. */
for (const name of ["URL", "FOLDER", "PRINTER", "CARRIERS", "SCALE", "MAILBOX"])
  process.env[`VARNOK_${name}`] = process.env[`VARNOK_${name}_${process.env.TEST_PARALLEL_INDEX ?? 0}`]

export const url = () => process.env.VARNOK_URL as string
export const printer = () => process.env.VARNOK_PRINTER as string

/** A page whose `goto` waits until its scripts have taken the document over: a busy machine is not what is tested. */
export const test = plain.extend({
  page: async ({ page }, use) => {
    const goto = page.goto.bind(page)
    page.goto = async (to, options) => {
      const answer = await goto(to, options)
      if (to.startsWith(url()) && !options?.waitUntil)
        await page.waitForFunction(() => Object.keys(document.body).some((name) => name.startsWith("__reactFiber")))
      return answer
    }
    await use(page)
  },
})

/**
 * A wedge scanner: keys without a pause, Enter at their end. Struck inside the page in one go, each with the time at
 * which a scanner's keys arrive (2 ms apart, my choice), so that a slow machine, which draws between two of them, can't
 * stretch them into typing; a field takes each letter unless its key was refused. Some scanners send Enter twice.
 */
export async function scan(page: Page, code: string, enters = 1): Promise<void> {
  await page.evaluate(
    async ({ text, enters }) => {
      const start = performance.now()
      let struck = 0
      const strike = (key: string) => {
        const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true })
        Object.defineProperty(event, "timeStamp", { value: start + 2 * struck })
        struck += 1
        ;(document.activeElement ?? document.body).dispatchEvent(event)
        return !event.defaultPrevented
      }
      for (const key of text) {
        const taken = strike(key)
        const field = document.activeElement
        if (!taken || !(field instanceof HTMLInputElement)) continue
        Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(field, field.value + key)
        field.dispatchEvent(new Event("input", { bubbles: true }))
      }
      for (let turn = 0; turn < 5; turn += 1) await Promise.resolve()
      const field = document.activeElement
      for (let sent = 0; sent < enters; sent += 1)
        if (strike("Enter") && field instanceof HTMLInputElement) field.form?.requestSubmit()
    },
    { text: code, enters },
  )
  await page.waitForTimeout(80)
}

/** Fingers: keys further apart than a scanner's. */
export async function type(page: Page, text: string): Promise<void> {
  await page.waitForTimeout(60)
  await page.keyboard.type(text, { delay: 55 })
  await page.waitForTimeout(60)
  await page.keyboard.press("Enter")
}

/** Enter on the empty line, once the plate says what is expected. */
export async function plate(page: Page, verb: string | RegExp): Promise<void> {
  await expect(page.locator(".plate.ready strong")).toHaveText(verb)
  await expect(page.locator("#scan-line")).toBeFocused()
  await page.waitForTimeout(650)
  await page.keyboard.press("Enter")
}

/** Tab until an element has the focus; fails when it can't be reached. */
export async function tabTo(page: Page, target: Locator): Promise<void> {
  for (let presses = 0; presses < 80; presses += 1) {
    if (await target.evaluate((element) => element === document.activeElement)) return
    await page.keyboard.press("Tab")
  }
  throw new Error("not reached by Tab")
}

export async function signIn(page: Page, name = "maren", password = "cellar-door"): Promise<void> {
  await page.goto(`${url()}/sign-in`)
  await page.getByLabel("User name").fill(name)
  await page.getByLabel("Password").fill(password)
  await page.getByRole("button", { name: "Sign in", exact: true }).click()
  await expect(page.locator("#scan-line")).toBeVisible()
}

/** The plate by mouse: it acts on a click at any time, scanner or not. */
export async function press(page: Page, verb: string | RegExp): Promise<void> {
  await expect(page.locator(".plate.ready strong")).toHaveText(verb)
  await page.locator(".plate-body").click()
}

/** Picks what is left of an order by the button, bin after bin. */
export async function byHand(page: Page): Promise<void> {
  await expect(page.locator(".pick-walk tbody tr").first()).toBeVisible()
  const stops = await page.locator(".pick-walk tbody tr").count()
  for (let done = await page.locator(".pick-walk tr.pale").count(); done < stops; done += 1) {
    await page.getByRole("button", { name: "Pick without scanning" }).click()
    await expect(page.locator(".pick-walk tr.pale")).toHaveCount(done + 1)
  }
}

/**
 * Closes the door that is open on the dock: with Enter, or, ahead of its time with orders to go, by the act below the
 * list that names them.
 */
export async function closeDoor(page: Page, door: string, by: "keys" | "mouse"): Promise<void> {
  const verb = `Close door ${door}`
  await expect(page.locator(".plate strong")).toHaveText(verb)
  if ((await page.locator(".door-early").count()) === 0)
    return await (by === "keys" ? plate(page, verb) : press(page, verb))
  await expect(page.locator(".plate.ready")).toHaveCount(0)
  const know = page.locator(".door-early").getByRole("checkbox")
  const close = page.getByRole("button", { name: `Close door ${door} early` })
  if (by === "mouse") {
    await know.check()
    return await close.click()
  }
  await tabTo(page, know)
  await page.keyboard.press("Space")
  await tabTo(page, close)
  await page.keyboard.press("Enter")
}

/** Watches a page for errors that nobody sees. */
export function troublesOf(page: Page): string[] {
  const troubles: string[] = []
  page.on("pageerror", (error) => troubles.push(error.message))
  page.on("console", (message) => {
    if (message.type() === "error") troubles.push(message.text())
  })
  return troubles
}

/** Puts everything that waits at the open door on the truck by its buttons, and closes it. */
export async function closeDoorByMouse(page: Page, door: string): Promise<void> {
  for (let waiting = await page.locator(".door-missing li").count(); waiting > 0; waiting -= 1) {
    await page.getByRole("button", { name: /^Load/ }).first().click()
    await expect(page.locator(".door-missing li")).toHaveCount(waiting - 1)
  }
  await closeDoor(page, door, "mouse")
  await expect(page.locator("#scan-answer")).toContainText(`Door ${door} closed`)
  await expect(page.locator(".plate strong")).toHaveText(`Door ${door} is closed`)
}

const mailbox = () => process.env.VARNOK_MAILBOX as string

/** The last mail to somebody with such a subject. */
export async function mailTo(page: Page, address: string, subject: RegExp): Promise<ParsedMail> {
  let found: ParsedMail | undefined
  await expect
    .poll(
      async () => {
        const all = (await (await page.request.get(`${mailbox()}/messages`)).json()) as {
          number: number
          to: string[]
        }[]
        for (const one of all.filter((mail) => mail.to.includes(address)).reverse()) {
          const mail = await simpleParser(
            await (await page.request.get(`${mailbox()}/messages/${one.number}.eml`)).body(),
          )
          if (subject.test(mail.subject ?? "")) {
            found = mail
            return true
          }
        }
        return false
      },
      { timeout: 40_000 },
    )
    .toBe(true)
  return found as ParsedMail
}
