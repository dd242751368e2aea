import { type Reason, reason } from "core/refusal/index.ts"
import { DoesNotFit, NotPrintable, unprintable } from "../pdf/page.ts"

/** Why a paper was not made, where a text on it can't be shown whole; null for any other error. */
export function whyNotMade(error: unknown): Reason[] | null {
  if (error instanceof NotPrintable)
    return error.texts.slice(0, 8).map(({ text, signs }) => reason("paper.not-printable", { text: short(text), signs }))
  if (error instanceof DoesNotFit)
    return error.misfits
      .slice(0, 8)
      .map(({ field, text }) => reason("paper.does-not-fit", { field, text: short(text) }))
  return null
}

/** Texts that some papers will have and that can't be printed, told before the papers are made. */
export const notPrintable = (texts: readonly string[]): Reason[] =>
  [...new Set(texts)]
    .map((text) => ({ text, signs: unprintable(text) }))
    .filter((one) => one.signs !== "")
    .slice(0, 8)
    .map(({ text, signs }) =>
      reason("paper.not-printable", { text: short(text), signs: [...signs].slice(0, 12).join("") }),
    )

const short = (text: string): string => (text.length > 80 ? `${text.slice(0, 79)}…` : text)
