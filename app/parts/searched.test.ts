import { describe, expect, it } from "vitest"
import { searchAsked } from "./Searched.tsx"

const at = (query: string) => searchAsked(new Request(`http://varnok.example/list?${query}`))

describe("what the address of a list asks for", () => {
  it("is the first page of everything where it says nothing", () => {
    expect(at("").asked).toEqual({ text: "", page: 1 })
  })

  it.each([
    ["page=3", 3],
    ["page=0", 1],
    ["page=-2", 1],
    ["page=2.9", 2],
    ["page=x", 1],
    ["page=1e9", 10_000],
    ["page=Infinity", 10_000],
  ])("%s is page %i", (query, page) => {
    expect(at(query).asked.page).toBe(page)
  })

  it("is no longer than is searched for", () => {
    expect(at(`find=${"9".repeat(5_000)}`).asked.text).toBe("9".repeat(60))
  })

  it("is one of the values of a choice, or what holds without one", () => {
    const states = ["open", "watched"] as const
    expect(at("state=watched").one("state", states, "open")).toBe("watched")
    expect(at("state=WATCHED").one("state", states, "open")).toBe("open")
    expect(at("state=toString").one("state", states, "")).toBe("")
    expect(at("kind=open").one("state", states, "")).toBe("")
  })
})
