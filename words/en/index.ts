import { buying } from "./buying.ts"
import { claims } from "./claims.ts"
import { customs } from "./customs.ts"
import { day } from "./day.ts"
import { dock } from "./dock.ts"
import { drop } from "./drop.ts"
import { edi } from "./edi.ts"
import { frame } from "./frame.ts"
import { goodsBack } from "./goodsBack.ts"
import { history } from "./history.ts"
import { intake } from "./intake.ts"
import { order } from "./order.ts"
import { orders } from "./orders.ts"
import { packing } from "./packing.ts"
import { papers } from "./papers.ts"
import { pick } from "./pick.ts"
import { print } from "./print.ts"
import { printers } from "./printers.ts"
import { problem } from "./problem.ts"
import { quotes } from "./quotes.ts"
import { rates } from "./rates.ts"
import { reports } from "./reports.ts"
import { returns } from "./returns.ts"
import { round } from "./round.ts"
import { setup } from "./setup.ts"
import { shippingRuns } from "./shippingRuns.ts"
import { stock } from "./stock.ts"
import { tariffs } from "./tariffs.ts"
import { telling } from "./telling.ts"
import { tracking } from "./tracking.ts"

/** Every word of the interface, its papers and messages, in English: ICU messages by key, a file for each place. */
export const en = {
  ...packing,
  ...tracking,
  ...reports,
  ...telling,
  ...frame,
  ...order,
  ...history,
  ...buying,
  ...setup,
  ...papers,
  ...print,
  ...problem,
  ...pick,
  ...stock,
  ...intake,
  ...orders,
  ...rates,
  ...day,
  ...drop,
  ...edi,
  ...round,
  ...quotes,
  ...tariffs,
  ...dock,
  ...shippingRuns,
  ...printers,
  ...returns,
  ...goodsBack,
  ...claims,
  ...customs,
} as const
