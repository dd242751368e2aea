import { ownPath } from "server/http/ownPath.ts"
import { expect, it } from "vitest"

it("goes to a path of our own after signing in", () => {
  for (const path of ["/", "/orders?find=yeast", "/orders/48217#ship-to", "/set-up/users"])
    expect(ownPath(path)).toBe(path)
})

it.each([
  "//elsewhere.example",
  "/\\elsewhere.example",
  "\\\\elsewhere.example",
  "/\t/elsewhere.example",
  "/\n/elsewhere.example",
  "\t//elsewhere.example",
  "/.//elsewhere.example",
  "/..//elsewhere.example",
  "/a/..//elsewhere.example",
  "https://elsewhere.example/",
  "https:elsewhere.example",
  "javascript:alert(1)",
  "data:text/html,x",
  "http://varnok.invalid@elsewhere.example/",
])("never to %j", (to) => {
  const path = ownPath(to)
  // as a browser resolves it from the address of the sign-in page
  expect(new URL(path, "https://varnok.example/sign-in").origin).toBe("https://varnok.example")
  expect(path).not.toMatch(/^\/[/\\]/)
})
