export * from "./distance.ts"
export * from "./plan.ts"
