/** What became of packages: what events say of them, and what somebody has to see to. */
export * from "./follow.ts"
export * from "./late.ts"
export * from "./needs.ts"
export * from "./states.ts"
