import { buying } from "./buying.ts"
import { day } from "./day.ts"
import { dock } from "./dock.ts"
import { follow } from "./follow.ts"
import { frame } from "./frame.ts"
import { handing } from "./handing.ts"
import { order } from "./order.ts"
import { packing } from "./packing.ts"
import { pick } from "./pick.ts"
import { print } from "./print.ts"
import { tracking } from "./tracking.ts"

/** German, as far as it goes, which is the clerk's main screens: what is missing is said in English. */
export const de: Readonly<Record<string, string>> = {
  ...frame,
  ...day,
  ...order,
  ...pick,
  ...packing,
  ...buying,
  ...dock,
  ...handing,
  ...print,
  ...follow,
  ...tracking,
}
