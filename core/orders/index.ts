export * from "./checks.ts"
export * from "./quantity.ts"
export * from "./stage.ts"
export * from "./workload.ts"
