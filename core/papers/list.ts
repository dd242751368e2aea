import { billOfLading } from "./billOfLading.ts"
import { certificateOfOrigin } from "./certificateOfOrigin.ts"
import { dangerousGoods } from "./dangerousGoods.ts"
import type { PaperDefinition } from "./definition.ts"
import { goodsMark } from "./goodsMark.ts"
import { invoice } from "./invoice.ts"
import { letterOfInstruction } from "./letterOfInstruction.ts"
import { packingList } from "./packingList.ts"
import { palletLabel } from "./palletLabel.ts"
import { postalDeclaration } from "./postalDeclaration.ts"

/** Every paper that is worked out for a shipment, in the order in which they are shown and printed. */
export const definitions: readonly PaperDefinition[] = [
  invoice,
  packingList,
  postalDeclaration,
  certificateOfOrigin,
  letterOfInstruction,
  dangerousGoods,
  goodsMark,
  billOfLading,
  palletLabel,
]
