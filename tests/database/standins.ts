import { readdirSync } from "node:fs"
import { join, resolve } from "node:path"
import { build } from "esbuild"

/**
 * The stand-ins as plain JavaScript in a folder, for tests that start them by the dozen: started from their sources each
 * would be translated again. Answers the folder, from where packages are found.
 */
export async function builtStandins(): Promise<string> {
  const folder = resolve("node_modules/.cache/varnok-standins")
  const entryPoints = readdirSync("standins", { withFileTypes: true })
    .filter((one) => one.isDirectory())
    .map((one) => join("standins", one.name, "main.ts"))
  await build({
    entryPoints,
    outbase: ".",
    outdir: folder,
    outExtension: { ".js": ".mjs" },
    bundle: true,
    packages: "external",
    platform: "node",
    format: "esm",
    target: "node20",
    tsconfig: "tsconfig.json",
  })
  return folder
}
