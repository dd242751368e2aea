export * from "./billedWeight.ts"
export * from "./compare.ts"
export * from "./rate.ts"
export * from "./tariff.ts"
