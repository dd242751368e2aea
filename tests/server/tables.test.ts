import { readFileSync } from "node:fs"
import { afterAll, beforeAll, expect, it } from "vitest"
import { tableTypes } from "../../server/db/tableTypes.ts"
import { openRig, type Rig } from "./rig.ts"

let rig: Rig
beforeAll(async () => {
  rig = await openRig()
})
afterAll(() => rig?.drop())

/** As written, without what the formatter adds. */
const bare = (text: string) => text.replace(/[\s,]/g, "").replace(/:\|/g, ":")

it("the types of tables are those of the migrated schema; `npm run tables` writes them anew", async () => {
  expect(bare(readFileSync("server/db/tables.ts", "utf8"))).toBe(bare(await tableTypes(rig.db)))
})
