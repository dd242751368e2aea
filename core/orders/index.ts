export * from "./checks.ts"
export * from "./stage.ts"
export * from "./workload.ts"
