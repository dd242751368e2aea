import type { ServiceId } from "core/ids/index.ts"
import { Decimal } from "decimal.js"
import type { Knex } from "knex"

/** Takes a charge from the balance of a carrier that is paid beforehand; a negative one is given back to it. */
export const takeFromBalance = (
  trx: Knex,
  intent: { readonly service_id: ServiceId },
  amount: string,
): Promise<number> =>
  trx("carrier")
    .whereIn("id", trx("service").where({ id: intent.service_id }).select("carrier_id"))
    .whereNotNull("prepaid_balance")
    .update({ prepaid_balance: trx.raw("prepaid_balance - ?", [amount]) })

/** What is left now with carriers that are paid beforehand, by the codes of their services. */
export async function prepaidBalances(db: Knex): Promise<ReadonlyMap<string, string>> {
  const rows = await db("service as s")
    .join("carrier as c", "c.id", "s.carrier_id")
    .whereNotNull("c.prepaid_balance")
    .select("s.code", "c.prepaid_balance")
  return new Map(rows.map((row) => [row.code, new Decimal(row.prepaid_balance ?? 0).toFixed(2)]))
}
