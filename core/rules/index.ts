export * from "./rule.ts"
export * from "./settings.ts"
export * from "./settle.ts"
