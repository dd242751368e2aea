export * from "./cover.ts"
export * from "./leaving.ts"
