import { type Settled, settingOf } from "core/rules/index.ts"

/** How many of a paper are printed: three of the invoice outside and one kept, three ladings (common practice). */
const usual: Readonly<Record<string, number>> = { invoice: 4, "bill-of-lading": 3 }

/** As many as the customer or a rule wants of a paper, else as many as is usual. */
export const copiesOf = (kind: string, settled: Settled): number =>
  (kind === "invoice"
    ? settingOf(settled, "invoiceCopies")
    : kind === "bill-of-lading"
      ? settingOf(settled, "ladingCopies")
      : undefined) ??
  usual[kind] ??
  1
