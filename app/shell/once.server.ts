import { createHash, randomUUID } from "node:crypto"

/**
 * What a form that is sent is known by, so that it counts once: its scan's id, or the key that its page was given with
 * all that is filled in. Sent twice before the page is new (a double click, a lost answer), it is the same; another form
 * of the page, or other figures in it, is another. A form without either is always a new one. At most 36 signs.
 */
export function onceKey(form: FormData): string {
  const scanId = form.get("scanId")
  if (typeof scanId === "string" && scanId) return scanId.slice(0, 36)
  if (!form.get("key")) return randomUUID()
  const fields = [...form.entries()].map(([name, value]) => [name, String(value)])
  return createHash("sha256").update(JSON.stringify(fields)).digest("hex").slice(0, 36)
}
