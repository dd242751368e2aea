export * from "./leaving.ts"
