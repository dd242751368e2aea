import { dayHandlers } from "../day/handlers.ts"
import { decisionsHandlers } from "../decisions/handlers.ts"
import { dockHandlers } from "../dock/handlers.ts"
import { documentsHandlers } from "../documents/handlers.ts"
import { ediHandlers } from "../edi/handlers.ts"
import { intakeHandlers } from "../intake/handlers.ts"
import { clearUpHandler } from "../jobs/clearUp.ts"
import type { Handler } from "../jobs/kind.ts"
import { mailHandlers } from "../mail/handlers.ts"
import { ordersHandlers } from "../orders/handlers.ts"
import { outsideHandlers } from "../outside/handlers.ts"
import { reportsHandlers } from "../reports/handlers.ts"
import { returnsHandlers } from "../returns/handlers.ts"
import { shippingHandlers } from "../shipping/handlers.ts"
import { shippingRunsHandlers } from "../shippingRuns/handlers.ts"
import { tellingHandlers } from "../telling/handlers.ts"
import { trackingHandlers } from "../tracking/handlers.ts"

/** What a worker knows to do: the jobs of every room. */
export const handlers: readonly Handler[] = [
  ...shippingHandlers,
  ...documentsHandlers,
  ...reportsHandlers,
  ...mailHandlers,
  ...outsideHandlers,
  ...dayHandlers,
  ...intakeHandlers,
  ...ordersHandlers,
  ...decisionsHandlers,
  ...shippingRunsHandlers,
  ...returnsHandlers,
  ...dockHandlers,
  ...ediHandlers,
  ...trackingHandlers,
  ...tellingHandlers,
  clearUpHandler(() => handlers),
]
