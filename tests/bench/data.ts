import type { Knex } from "knex"
import { putMissingWords } from "server/orders/words.ts"
import { there } from "../../server/db/there.ts"

/** Rows that one insert carries. */
const chunk = 2_000

/**
 * Fills a warehouse with so many orders of three lines, as rows and not through the use cases, since only reading is
 * measured. The first `open` are still open for today's trucks, some of them picked and packed; the rest went long ago.
 */
export async function fillOrders(db: Knex, from: number, to: number, open: number): Promise<void> {
  const items = await db("item").whereNull("un_number").orderBy("id").limit(20).pluck("id")
  const stock = new Map(
    (await db("stock").where({ warehouse_id: 1 }).orderBy("id").select("id", "item_id")).map((row) => [
      row.item_id,
      row.id,
    ]),
  )
  await db("stock").where({ warehouse_id: 1 }).update({ on_hand: 1_000_000 })
  const trucks = await db("collection").where({ warehouse_id: 1 }).orderBy("cut_off").limit(8).pluck("id")
  const source = there(await db("order_source").orderBy("id").first("id"))
  const customers = ["Elk Run Taproom", "Halvard Brewing", "Tern Lake Winery", "Minnow Creek Lab", "Pine & Anvil"]
  for (let at = from; at < to; at += chunk) {
    const ids = Array.from({ length: Math.min(chunk, to - at) }, (_, index) => at + index + 1)
    await db("sales_order").insert(
      ids.map((id) => ({
        id: 1_000_000 + id,
        warehouse_id: 1,
        source_id: source.id,
        source_number: `BE-${id}`,
        order_number: id.toString(36).padStart(5, "0"),
        customer_name: there(customers[id % customers.length]),
        po_number: `PO ${id}`,
        ordered_on: "2026-11-23",
        promised_on: "2026-12-02",
        company: there(customers[id % customers.length]),
        attention: "",
        street: `${id <= open ? id % 120 : id} Growler Row`,
        street2: "",
        city: "Denver",
        state: "CO",
        postal_code: "80205",
        country: "US",
        phone: "",
        address_kind: "business",
        notes: "",
        content_hash: "",
        received_at: new Date("2026-11-24T12:00:00Z"),
        refused_rows: "[]",

        collection_id: id <= open ? trucks[1 + (id % 7)] : null,
        left_line_at: id <= open ? null : new Date("2026-11-01T12:00:00Z"),
      })),
    )
    await db("order_line").insert(
      ids.flatMap((id) =>
        [1, 2, 3].map((line) => ({
          id: 3_000_000 + id * 3 + line,
          order_id: 1_000_000 + id,
          line_number: line,
          item_id: there(items[(id + line * 3) % items.length]),
          ordered: line + 1,
          unit: "each",
        })),
      ),
    )
    const working = ids.filter((id) => id <= open)
    if (working.length > 0)
      await db("allocation").insert(
        working.flatMap((id) =>
          [1, 2, 3].map((line) => ({
            order_line_id: 3_000_000 + id * 3 + line,
            stock_id: there(stock.get(there(items[(id + line * 3) % items.length]))),
            quantity: line + 1,
            picked: id % 4 === 0 ? line + 1 : 0,
          })),
        ),
      )
    const gone = ids.filter((id) => id > open)
    if (gone.length > 0) {
      await db("shipment").insert(
        gone.map((id) => ({ id: 1_000_000 + id, order_id: 1_000_000 + id, warehouse_id: 1, state: "bought" })),
      )
      await db("package").insert(
        gone.map((id) => ({
          id: 1_000_000 + id,
          shipment_id: 1_000_000 + id,
          number: 1,
          state: "gone",
          length_mm: 300,
          width_mm: 300,
          height_mm: 300,
          tare_kg: "0.5",
        })),
      )
      await db("package_content").insert(
        gone.flatMap((id) =>
          [1, 2, 3].map((line) => ({
            package_id: 1_000_000 + id,
            order_line_id: 3_000_000 + id * 3 + line,
            quantity: line + 1,
          })),
        ),
      )
    }
  }
  while (await putMissingWords(db, Date.now() + 60_000));
  await db.raw("ANALYZE TABLE order_word, sales_order, order_line, allocation, shipment, package, package_content")
}
