import type { SlipSettings } from "core/documents/index.ts"
import { say } from "words/index.ts"
import { Check, Choice, TextField } from "../parts/Fields.tsx"

/** What packing slips show; of a customer "as usual" where nothing is said. */
export function SlipFields({ slip, id }: { slip: Partial<SlipSettings>; id: string }) {
  return (
    <>
      <Choice
        name="per"
        id={`${id}-per`}
        label="slip.per"
        value={slip.per ?? "shipment"}
        options={(["shipment", "package"] as const).map((value) => ({ value, text: say(`slip.per.${value}`) }))}
      />
      <Check name="prices" id={`${id}-prices`} label="slip.prices" on={slip.prices ?? false} />
      <Check name="lots" id={`${id}-lots`} label="slip.lots" on={slip.lots ?? true} />
      <Check name="backOrders" id={`${id}-later`} label="slip.backOrders" on={slip.backOrders ?? true} />
      <TextField name="message" id={`${id}-message`} label="slip.message" value={slip.message} most={400} />
      <div className="field">
        <label htmlFor={`${id}-head`}>{say("slip.letterhead")}</label>
        <textarea
          id={`${id}-head`}
          name="letterhead"
          rows={4}
          maxLength={320}
          defaultValue={(slip.letterhead ?? []).join("\n")}
        />
      </div>
    </>
  )
}

/** The fields as the server reads them. */
export const slipFrom = (form: FormData): Partial<SlipSettings> => ({
  per: form.get("per") === "package" ? "package" : "shipment",
  prices: form.get("prices") === "on",
  lots: form.get("lots") === "on",
  backOrders: form.get("backOrders") === "on",
  message: String(form.get("message") ?? ""),
  letterhead: String(form.get("letterhead") ?? "")
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter(Boolean)
    .slice(0, 5),
})
