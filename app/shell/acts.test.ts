import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { NotAllowed } from "server/actors/index.ts"
import type { Work } from "server/http/context.ts"
import { describe, expect, it, vi } from "vitest"
import { z } from "zod"
import { act, answerForm, answerTo, field, nothing } from "./acts.server.ts"
import { done } from "./scan.server.ts"

const work = {} as Work
const formOf = (fields: Readonly<Record<string, string | readonly string[]>>) => {
  const form = new FormData()
  for (const [name, value] of Object.entries(fields)) for (const one of [value].flat()) form.append(name, String(one))
  return form
}
const send = (acts: Parameters<typeof answerForm>[2], fields: Readonly<Record<string, string | readonly string[]>>) =>
  answerForm(formOf(fields), work, acts, async (text) => done(`scanned ${text}`))
const person = z.object({ name: z.string().trim().min(1).max(5), password: z.string().min(2) })

describe("a form", () => {
  it("is read by the schema of what it asks for, and answered in the words of what came of it", async () => {
    const acts = {
      add: act(
        person,
        async (_, { name }) => accepted(name),
        (name) => `Added ${name}.`,
      ),
    }
    const { answer } = await send(acts, { intent: "add", name: " Anna ", password: "secret" })
    expect(answer).toMatchObject({ refused: false, words: "Added Anna." })
  })
  it("with wrong fields is not tried: each is told at its field, what was typed comes back, no password does", async () => {
    const does = vi.fn(async () => accepted(null))
    const answered = await send(
      { add: act(person, does) },
      { intent: "add", form: "new", name: "Annabel", password: "x" },
    )
    expect(does).not.toHaveBeenCalled()
    expect(answered.answer).toMatchObject({ refused: true, words: "2 fields need a change. Nothing was saved." })
    expect(answered).toMatchObject({
      wrong: {
        form: "new",
        result: {
          error: { name: ["This is too long."], password: ["This is not a valid value."] },
          initialValue: { name: "Annabel" },
        },
      },
    })
    expect(JSON.stringify(answered)).not.toContain('"x"')
  })
  it("that the use case refuses says so on the scan line, and at the field that the reason is about", async () => {
    const taken = async (): Promise<Outcome<null>> => refused(reason("user.username-taken", { username: "anna" }))
    const add = act(person, taken, () => "", { at: { "user.username-taken": "name" } })
    const answered = await send({ add }, { intent: "add", form: "new", name: "Anna", password: "secret" })
    expect(answered.answer.words).toBe("anna is taken. Choose another user name.")
    expect(answered).toMatchObject({
      wrong: { result: { error: { name: ["anna is taken. Choose another user name."] } } },
    })
    expect(JSON.stringify(answered)).not.toContain("secret")
  })
  it("that is refused comes back with the names of the fields that were changed in it; the schema does not see them", async () => {
    const seen = vi.fn(async (): Promise<Outcome<null>> => refused(reason("order.unknown")))
    const fields = { intent: "any", form: "new", changed: ["name city", "periods"], name: "Anna" }
    const answered = await send({ any: act(z.looseObject({}), seen) }, fields)
    expect(seen).toHaveBeenCalledWith(work, { name: "Anna" }, expect.anything())
    expect(answered).toMatchObject({ wrong: { changed: ["name", "city", "periods"] } })
  })
  it("keeps in hand what was in hand when it is refused", async () => {
    const put = act(
      z.object({ package: field.id }),
      async (): Promise<Outcome<null>> => refused(reason("order.unknown")),
      (_, fields) => ({ ...done(""), hand: fields.package }),
      { kept: (fields) => ({ hand: fields.package }) },
    )
    expect(await send({ put }, { intent: "put", package: "3" })).toMatchObject({ answer: { refused: true }, hand: 3 })
  })
  it("that asks for what no act does is a scan, whatever the objects of the language are called", async () => {
    for (const intent of ["scan", "", "constructor", "__proto__", "toString"])
      expect(
        (await send({ add: act(nothing, async () => accepted(null)) }, { intent, text: " 48231 " })).answer.words,
      ).toBe("scanned 48231")
  })
  it("does what its pressed button says after what it says itself", async () => {
    const acts = {
      off: act(
        nothing,
        async () => accepted(null),
        () => "off",
      ),
      save: act(nothing, async () => accepted(null)),
    }
    expect((await send(acts, { intent: ["save", "off"] })).answer.words).toBe("off")
  })
  it("does not let the parser's own names in", async () => {
    const seen = vi.fn(async () => accepted(null))
    const fields = { intent: "any", __intent__: '{"type":"reset","payload":{}}', __state__: "{", a: "1" }
    await send({ any: act(z.looseObject({}), seen) }, fields)
    expect(seen).toHaveBeenCalledWith(work, { a: "1" }, expect.anything())
  })
  it("of somebody without the right is a 403", async () => {
    const acts = {
      add: act(nothing, async (): Promise<Outcome<null>> => {
        throw new NotAllowed("users.manage")
      }),
    }
    const request = new Request("http://varnok.test/", { method: "POST", body: new URLSearchParams({ intent: "add" }) })
    await expect(answerTo(request, work, acts)).rejects.toMatchObject({ status: 403 })
  })
})

describe("the fields that forms have in common", () => {
  const all = z.object({
    id: field.id,
    on: field.tick,
    n: field.count,
    text: field.text(4),
    many: field.many(field.id, 2),
  })
  it("read what browsers send", () => {
    expect(all.parse({ id: "7", on: "on", n: " 12 ", text: " ab ", many: ["1", "2"] })).toEqual({
      id: 7,
      on: true,
      n: 12,
      text: "ab",
      many: [1, 2],
    })
  })
  it("read what is left out as nothing, and one of many as a list of one", () => {
    expect(all.parse({ many: "5" })).toEqual({ id: 0, on: false, n: Number.NaN, text: "", many: [5] })
  })
  it("take no id or count from what is none", () => {
    for (const id of ["-1", "1.5", "NaN", "1e400", "x"]) expect(all.parse({ id }).id).toBe(0)
    for (const n of ["-1", "1.5", "1e3", "12345678", "٣"]) expect(all.parse({ n }).n).toBeNaN()
  })
  it("refuse more than there may be", () => {
    expect(all.safeParse({ many: ["1", "2", "3"] }).success).toBe(false)
    expect(all.safeParse({ text: "abcde" }).success).toBe(false)
  })
})
