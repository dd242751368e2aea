import { say } from "words/index.ts"
import { Table } from "../parts/Table.tsx"

interface Schema {
  readonly $ref?: string
  readonly type?: string | readonly string[]
  readonly description?: string
  readonly properties?: Readonly<Record<string, Schema>>
  readonly required?: readonly string[]
  readonly items?: Schema
  readonly enum?: readonly string[]
  readonly maxLength?: number
  readonly anyOf?: readonly Schema[]
  readonly default?: unknown
}

interface Operation {
  readonly summary: string
  readonly description: string
  readonly requestBody?: { readonly content: { readonly "application/json": { readonly schema: Schema } } }
  readonly responses: Readonly<Record<string, { readonly description: string }>>
}

/** As much of an OpenAPI document as the page shows. */
export interface OpenApiDocument {
  readonly info: { readonly description: string }
  readonly servers: readonly { readonly url: string }[]
  readonly components: { readonly schemas: Readonly<Record<string, Schema>> }
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>
}

/** The reference of the programming interface, read from its OpenAPI document. */
export function Reference({ of }: { of: OpenApiDocument }) {
  return (
    <div className="reference">
      <p>{of.info.description}</p>
      {Object.entries(of.paths).flatMap(([path, operations]) =>
        Object.entries(operations).map(([method, operation]) => (
          <article key={`${method} ${path}`}>
            <h2>
              <code>
                {method.toUpperCase()} {of.servers[0]?.url}
                {path}
              </code>
            </h2>
            <p>
              <b>{operation.summary}.</b> {operation.description}
            </p>
            <ul>
              {Object.entries(operation.responses).map(([status, answer]) => (
                <li key={status}>
                  <code>{status}</code> {answer.description}
                </li>
              ))}
            </ul>
          </article>
        )),
      )}
      {(["Order", "OrderAnswer", "OrderStatus", "Problem"] as const).map((name) => (
        <article key={name}>
          <h2>{name}</h2>
          <Table
            className="rows tight"
            caption={name}
            rows={fieldsOf(of.components.schemas[name] ?? {})}
            rowKey={([field]) => field}
            columns={[
              { name: "field", head: say("api.field"), className: "code", cell: ([field]) => field },
              { name: "type", head: say("api.type"), cell: ([, schema]) => typeOf(schema) },
              {
                name: "meaning",
                head: say("api.meaning"),
                cell: ([, schema, needed]) => (
                  <>
                    {needed ? `${say("api.needed")} ` : ""}
                    {schema.description ?? ""}
                  </>
                ),
              },
            ]}
          />
        </article>
      ))}
    </div>
  )
}

/** The fields of a schema with those inside them, named by their path. */
function fieldsOf(schema: Schema, at = ""): [string, Schema, boolean][] {
  return Object.entries(schema.properties ?? {}).flatMap(([name, field]): [string, Schema, boolean][] => {
    const path = at ? `${at}.${name}` : name
    const inside = field.properties ? field : field.items?.properties ? field.items : null
    const needed = schema.required?.includes(name) ?? false
    return [[path, field, needed], ...(inside ? fieldsOf(inside, field.items ? `${path}[]` : path) : [])]
  })
}

function typeOf(schema: Schema): string {
  if (schema.$ref) return schema.$ref.split("/").at(-1) ?? ""
  if (schema.enum) return schema.enum.join(", ")
  if (schema.anyOf) return schema.anyOf.map(typeOf).join(" / ")
  const type = [schema.type ?? ""].flat().join(", ")
  return schema.type === "string" && schema.maxLength ? `${type}, ${schema.maxLength}` : type
}
