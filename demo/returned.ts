import { randomUUID } from "node:crypto"
import { instantAt } from "core/calendar/index.ts"
import { moneyText } from "core/money/index.ts"
import type { Knex } from "knex"
import type { Context } from "server/actors/index.ts"
import { openClaim, setClaimTerms, termsForm } from "server/claims/claims.ts"
import { setBusinessNow } from "server/clock/index.ts"
import { shipmentOf } from "server/packages/shipment.ts"
import { arrive, arriveWithoutLabel, withoutLabelForm } from "server/returns/arrive.ts"
import { askReturn } from "server/returns/ask.ts"
import { wholeBack } from "server/returns/goods.ts"
import { returnOffers } from "server/returns/offers.ts"
import { setReturnBin } from "server/returns/onward.ts"
import { warehouseById } from "server/setup/warehouse.ts"
import { workOnce } from "server/worker/index.ts"
import { there } from "../server/db/there.ts"
import type { Steps } from "./past.ts"
import { duluth } from "./setup.ts"

/**
 * What came of last Thursday's orders that customers send back: two labels, one package of which is at the dock, and one
 * package that nobody can place; and a claim for one that the carrier damaged.
 */
export async function sentBack(db: Knex, actor: Context["actor"], { must }: Steps): Promise<void> {
  const now = instantAt("2026-11-24", "06:40", "America/Chicago")
  await setBusinessNow(db, now)
  const context: Context = { db, actor, now }
  const lead: Context = { ...context, actor: { ...actor, role: "lead" } }
  must(await setReturnBin(lead, "inspection", "K-12-1"))
  must(await setReturnBin(lead, "repair", "Q-05-1"))
  const warehouse = await warehouseById(db, duluth)
  const names: string[] = []
  for (const number of ["SO-70101", "SO-70102"]) {
    const order = there(await db("sales_order").where({ source_number: number }).first("id"))
    const shipment = there(await shipmentOf(db, order.id))
    const { preselected } = must(await returnOffers(db, warehouse, shipment, wholeBack, now))
    const offer = there(preselected)
    const purchase = {
      serviceCode: offer.service.code,
      expected: moneyText(there(offer.rate).contract),
      prints: true,
      mailTo: "",
    }
    const { returnId } = must(await askReturn(context, order.id, wholeBack, purchase, randomUUID()))
    while (await workOnce(db)) {
      // until its label is booked
    }
    names.push(there(await db("goods_return").where({ return_intent_id: returnId }).first("name")).name)
  }
  const [first] = await db("goods_return_package as p")
    .join("goods_return as g", "g.id", "p.goods_return_id")
    .where("g.name", there(names[1]))
    .select("p.id")
  must(await arrive(context, there(first).id))
  // one carrier takes claims by e-mail, and a carton that came wet is to be claimed for
  const lark = there(await db("carrier").where({ code: "LARK" }).first("id"))
  const admin: Context = { ...context, actor: { ...actor, role: "administrator" } }
  const terms = { carrier: lark.id, email: "claims@larkspur.example", loss: 60, damage: 30, perPackage: "100" }
  must(
    await setClaimTerms(
      admin,
      termsForm.parse({ ...terms, lossUnit: "days", damageUnit: "days", lossFrom: "shipped", freight: "on" }),
    ),
  )
  const wet = there(
    await db("tracked_unit as u")
      .join("sales_order as o", "o.id", "u.order_id")
      .where("o.source_number", "SO-70107")
      .first("u.id"),
  )
  must(await openClaim(context, wet.id, "damage"))
  const said = { code: "3Q 7741 02", note: "Carton without a name, a refractometer in it" }
  must(await arriveWithoutLabel(context, withoutLabelForm.parse(said), randomUUID()))
}
