import { isoDay } from "core/calendar/schema.ts"
import { z } from "zod"
import { orderDocument } from "../formats/ordersJson.ts"
import { quoteAsked } from "../quotes/asked.ts"
import { invoiceDocument } from "../reports/freight.ts"

export const reasonDocument = z.object({
  code: z.string().describe("Stable code of the reason."),
  values: z.record(z.string(), z.string()).describe("The figures and texts that belong to it."),
})

export const orderAnswer = z.object({
  number: z.string().describe("The sender's number."),
  orderNumber: z.string().describe("Our short number."),
  fate: z
    .enum([
      "new",
      "unchanged",
      "changed",
      "picking-begun",
      "cancelled",
      "not-here",
      "waits",
      "nothing-good",
      "overtaken",
      "other-warehouse",
    ])
    .describe("What became of it; a change after picking has begun waits for a person's decision."),
  stage: z.string(),
  stops: z.array(reasonDocument).describe("Why it is stopped; empty when it can be picked."),
})
export type OrderAnswer = z.infer<typeof orderAnswer>

export const bulkAnswer = z.object({
  taken: z.number().int(),
  refused: z.number().int(),
  results: z.array(
    z.object({
      index: z.number().int().describe("Place in the list, from 0."),
      number: z.string(),
      status: z.number().int().describe("As if the order had been sent alone."),
      orderNumber: z.string().optional(),
      fate: orderAnswer.shape.fate.optional(),
      stage: z.string().optional(),
      stops: z.array(reasonDocument).optional(),
      error: z.string().optional(),
      code: z.string().optional(),
      values: z.record(z.string(), z.string()).optional(),
      reasons: z.array(reasonDocument).optional(),
    }),
  ),
})
export type BulkAnswer = z.infer<typeof bulkAnswer>

export const orderStatus = z.object({
  number: z.string(),
  orderNumber: z.string(),
  stage: z.string(),
  stops: z.array(reasonDocument),
  promisedOn: isoDay.nullable(),
  packages: z.array(z.object({ name: z.string(), state: z.string(), trackingNumber: z.string().nullable() })),
})
export type OrderStatus = z.infer<typeof orderStatus>

export const quoteAnswer = z.object({
  number: z.string().describe("Number of the quote."),
  validUntil: isoDay.describe("Last day on which it is good."),
  currency: z.string(),
  services: z.array(
    z.object({
      service: z.string().describe("Code of the service; as serviceAsked of an order it is marked there."),
      name: z.string(),
      carrier: z.string(),
      charged: z.string().nullable().describe("What the customer is charged; null where it can't be sent so."),
      arrives: z.object({ date: isoDay, time: z.string() }).nullable(),
      late: z.boolean().describe("It arrives after the promised day."),
      best: z.boolean().describe("The lowest charge of those that arrive in time."),
      reasons: z.array(reasonDocument).describe("Why it can't be sent so."),
    }),
  ),
})
export type QuoteAnswer = z.infer<typeof quoteAnswer>

export const invoiceAnswer = z.object({ number: z.string().describe("Number of the invoice that is kept.") })
export type InvoiceAnswer = z.infer<typeof invoiceAnswer>

export const reportsAnswer = z.object({
  reports: z.array(
    z.object({
      id: z.string().describe("By which the same report is known."),
      topic: z
        .string()
        .describe(
          "What happened: order.gone, order.labelled, order.voided, order.changed, order.charged, order.delivered, order.return-arrived, order.returned, order.return-declined.",
        ),
      at: z.string(),
      state: z.enum(["waiting", "sent", "refused"]),
      data: z.record(z.string(), z.unknown()).describe("As it is sent, by what is chosen for the source."),
    }),
  ),
})
export type ReportsAnswer = z.infer<typeof reportsAnswer>

export const problem = z.object({
  error: z.string().describe("What is wrong and what to do."),
  code: z.string().describe("Stable code of what was refused."),
  values: z.record(z.string(), z.string()).describe("The figures that belong to the code."),
  reasons: z.array(reasonDocument).optional(),
  requestId: z.string(),
})
export type Problem = z.infer<typeof problem>

const documents = {
  Order: orderDocument,
  OrderAnswer: orderAnswer,
  Orders: z.object({ orders: z.array(orderDocument).min(1).max(500) }),
  BulkAnswer: bulkAnswer,
  OrderStatus: orderStatus,
  Quote: quoteAsked,
  QuoteAnswer: quoteAnswer,
  Invoice: invoiceDocument,
  InvoiceAnswer: invoiceAnswer,
  ReportsAnswer: reportsAnswer,
  Reason: reasonDocument,
  Problem: problem,
}

const schema = (id: string) => ({ content: { "application/json": { schema: { $ref: `#/components/schemas/${id}` } } } })
const answer = (description: string, id: string) => ({ description, ...schema(id) })
const idempotencyKey = {
  name: "Idempotency-Key",
  in: "header",
  required: true,
  schema: { type: "string", minLength: 8, maxLength: 80 },
}
const problems = {
  400: answer("The body is not an order; `reasons` name each field.", "Problem"),
  401: answer("No token, or one that is unknown, revoked or past its day.", "Problem"),
  403: answer("The token has not this right.", "Problem"),
}

/** The OpenAPI description of `/api/v1`, its schemas made from the Zod schemas that the server checks with. */
export function openApi(): Record<string, unknown> {
  const registry = z.registry<{ id: string }>()
  for (const [id, schema] of Object.entries(documents)) registry.add(schema, { id })
  const { schemas } = z.toJSONSchema(registry, {
    io: "input",
    uri: (id) => `#/components/schemas/${id}`,
  }) as { schemas: Record<string, Record<string, unknown>> }
  return {
    openapi: "3.1.0",
    info: {
      title: "Varnok",
      version: "1",
      description:
        "Orders in, their state out. Every write is safe to repeat: send the same Idempotency-Key again and get the same answer.",
    },
    servers: [{ url: "/api/v1" }],
    security: [{ token: [] }],
    components: {
      securitySchemes: { token: { type: "http", scheme: "bearer" } },
      schemas: Object.fromEntries(Object.entries(schemas).map(([id, { $schema: _, $id: __, ...body }]) => [id, body])),
    },
    paths: {
      "/orders": {
        post: {
          operationId: "sendOrder",
          summary: "Send a sales order",
          description:
            "Needs the right orders.write. The same number again is the same order, changed until picking begins.",
          parameters: [idempotencyKey],
          requestBody: { required: true, ...schema("Order") },
          responses: {
            200: answer("It is known: unchanged, changed, or being picked.", "OrderAnswer"),
            201: answer("It is new.", "OrderAnswer"),
            ...problems,
            413: answer("The body is larger than 1 MB.", "Problem"),
            415: answer("The body is not JSON.", "Problem"),
            422: answer("The order can't be taken in, or the key was used for another body.", "Problem"),
          },
        },
      },
      "/orders/bulk": {
        post: {
          operationId: "sendOrders",
          summary: "Send many sales orders",
          description:
            "Needs the right orders.write. Each order is taken in or refused by itself, as if it had been sent alone.",
          parameters: [idempotencyKey],
          requestBody: { required: true, ...schema("Orders") },
          responses: {
            200: answer("What became of each.", "BulkAnswer"),
            ...problems,
            413: answer("The body is larger than 8 MB.", "Problem"),
          },
        },
      },
      "/quotes": {
        post: {
          operationId: "makeQuote",
          summary: "Ask what freight would be charged",
          description:
            "Needs the right quotes.write. Rated by the same tariffs and rules as shipments; the quote is kept and can be turned into a shipment.",
          parameters: [idempotencyKey],
          requestBody: { required: true, ...schema("Quote") },
          responses: {
            201: answer("The quote, its services in order of charge.", "QuoteAnswer"),
            ...problems,
            422: answer(
              "It can't be quoted: items that are not known, no service, an address that is none.",
              "Problem",
            ),
          },
        },
      },
      "/orders/{number}/cancellation": {
        post: {
          operationId: "cancelOrder",
          summary: "Cancel an order",
          description:
            "Needs the right orders.write. Until picking begins the order is cancelled; after that a person decides.",
          parameters: [idempotencyKey, { name: "number", in: "path", required: true, schema: { type: "string" } }],
          responses: {
            200: answer("It is cancelled, or waits for a decision.", "OrderAnswer"),
            ...problems,
            404: answer("No order of this number.", "Problem"),
          },
        },
      },
      "/orders/{number}/invoice": {
        post: {
          operationId: "sendInvoice",
          summary: "Tell what was billed for an order",
          description: "Needs the right orders.write. Shown on the order beside what the freight cost.",
          parameters: [idempotencyKey, { name: "number", in: "path", required: true, schema: { type: "string" } }],
          requestBody: { required: true, ...schema("Invoice") },
          responses: {
            200: answer("It is kept.", "InvoiceAnswer"),
            ...problems,
            404: answer("No order of this number.", "Problem"),
          },
        },
      },
      "/orders/{number}/reports": {
        get: {
          operationId: "readReports",
          summary: "Read what the source is told of an order",
          description: "Needs the right orders.read. The oldest first; for whoever asks instead of being told.",
          parameters: [{ name: "number", in: "path", required: true, schema: { type: "string" } }],
          responses: {
            200: answer("The reports.", "ReportsAnswer"),
            ...problems,
            404: answer("No order of this number.", "Problem"),
          },
        },
      },
      "/orders/{number}": {
        get: {
          operationId: "readOrder",
          summary: "Read where an order stands",
          description: "Needs the right orders.read. Finds orders that were sent with a token.",
          parameters: [{ name: "number", in: "path", required: true, schema: { type: "string" } }],
          responses: {
            200: answer("The order with its packages.", "OrderStatus"),
            ...problems,
            404: answer("No order of this number.", "Problem"),
          },
        },
      },
    },
  }
}
