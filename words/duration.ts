import { say } from "./index.ts"

/** A stretch of whole minutes: `45 min`, from an hour on `2 h 05`. */
export const duration = (minutes: number): string =>
  minutes < 60
    ? say("time.minutes", { m: minutes })
    : say("time.hours", { h: Math.floor(minutes / 60), m: String(minutes % 60).padStart(2, "0") })
