export * from "./gaps.ts"
export * from "./incoterms.ts"
export * from "./invoice.ts"
