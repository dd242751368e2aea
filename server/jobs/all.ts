import { dayHandlers } from "../day/handlers.ts"
import { intakeHandlers } from "../intake/handlers.ts"
import { mailHandlers } from "../mail/handlers.ts"
import { ordersHandlers } from "../orders/handlers.ts"
import { outsideHandlers } from "../outside/handlers.ts"
import { papersHandlers } from "../papers/handlers.ts"
import { ratingHandlers } from "../rating/handlers.ts"
import { reportsHandlers } from "../reports/handlers.ts"
import { rulesHandlers } from "../rules/handlers.ts"
import { shippingHandlers } from "../shipping/handlers.ts"
import { stockHandlers } from "../stock/handlers.ts"
import { clearUpHandler } from "./clearUp.ts"
import type { Handler } from "./kind.ts"

/** What a worker knows to do: the jobs of every room. */
export const handlers: readonly Handler[] = [
  ...shippingHandlers,
  ...papersHandlers,
  ...reportsHandlers,
  ...mailHandlers,
  ...outsideHandlers,
  ...stockHandlers,
  ...dayHandlers,
  ...intakeHandlers,
  ...ordersHandlers,
  ...rulesHandlers,
  ...ratingHandlers,
  clearUpHandler(() => handlers),
]
