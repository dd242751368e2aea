import { randomBytes } from "node:crypto"
import { connect } from "server/db/connection.ts"
import { migrate } from "server/db/migrate.ts"
import { migrations } from "server/db/migrations/index.ts"
import { servicesOn } from "server/rating/tariffs.ts"
import { expect, inject, it } from "vitest"
import { sql } from "../../scripts/database.mjs"
import type { NewItemRow, NewWarehouseRow } from "../../server/db/tables.ts"
import { there } from "../../server/db/there.ts"

/** A parcel tariff as the first release stored it: without kind, units and countries. */
const oldTariff = {
  currency: "USD",
  validFrom: "2026-01-05",
  weightStep: "1",
  dimension: { step: "1", rounding: "up", divisor: "139", thresholdVolume: null },
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  suitability: { postBox: false, residential: true, business: true, statesNotServed: [] },
  discount: "0",
  minimumNet: "0",
  surcharges: [],
  fuel: { share: "0", on: [] },
  transit: { days: { "5": 3 }, by: "18:00", saturday: false },
  zones: ["5"],
  rows: [["150", "10.00"]],
}

it("goes from the release before to this one with everything that was there", async () => {
  const socket = inject("databaseSocket")
  const name = `varnok_${randomBytes(6).toString("hex")}`
  sql(socket, `CREATE DATABASE ${name}`)
  const db = connect(inject("databaseUrl").replace(/\/varnok$/, `/${name}`))
  try {
    await migrate(db, migrations.slice(0, 5))
    sql(
      socket,
      `USE ${name}; SET FOREIGN_KEY_CHECKS = 0;
      INSERT INTO warehouse (id, code, name, zone, company, street, city, state, postal_code, country, phone, gln, gs1_prefix, work_per_order, work_per_bin, work_per_line, work_per_package, work_source)
        VALUES (1, 'DLH', 'Duluth', 'America/Chicago', 'N', 'S', 'Duluth', 'MN', '55802', 'US', '', '9521234000011', '9521234', 3, 1, 1, 2, 'x');
      INSERT INTO user (id, username, name, role, password_hash, warehouse_id) VALUES (7, 'maren', 'Maren', 'clerk', 'x', 1);
      INSERT INTO carrier (id, code, name, base_url, account, holidays) VALUES (1, 'LARK', 'Larkspur', 'http://x', 'A', '[]');
      INSERT INTO service (id, carrier_id, code, name) VALUES (1, 1, 'LKG', 'Ground');
      INSERT INTO tariff (service_id, valid_from, body) VALUES (1, '2026-01-05', '${JSON.stringify(oldTariff)}');
      INSERT INTO zone_chart (carrier_id, origin, body) VALUES (1, '558', '{"origin":"558","ranges":[["800","829","5"]]}');
      INSERT INTO item (id, sku, description, weight_kg, length_mm, width_mm, height_mm, value, currency) VALUES (1, 'X', 'X', 1.5, 1, 1, 1, 1, 'USD');
      INSERT INTO sales_order (id, warehouse_id, source_id, source_number, bench_number, customer_name, po_number, ordered_on, company, attention, street, street2, city, state, postal_code, country, phone, address_kind, notes, content_hash, received_at, refused_rows)
        VALUES (1, 1, 1, 'A', '48201', 'C', '', '2026-11-23', '', '', '', '', '', '', '', 'US', '', 'unknown', '', '', '2026-11-24 08:00:00', '[]'),
               (2, 1, 1, 'B', '48202', 'C', '', '2026-11-23', '', '', '', '', '', '', '', 'US', '', 'unknown', '', '', '2026-11-24 08:00:00', '[]');
      INSERT INTO order_line (id, order_id, line_number, item_id, ordered, unit) VALUES (1, 1, 1, 1, 4, 'each');
      INSERT INTO shipment (id, order_id, warehouse_id, state) VALUES (1, 1, 1, 'bought'), (2, 2, 1, 'open');
      INSERT INTO package (id, shipment_id, number, state, length_mm, width_mm, height_mm, tare_kg) VALUES (1, 1, 1, 'labelled', 1, 1, 1, 0.25);
      INSERT INTO package_content (package_id, order_line_id, quantity) VALUES (1, 1, 4);`,
    )
    expect(await migrate(db, migrations.slice(0, 13))).toEqual([
      "0006-wider",
      "0007-intake",
      "0008-addresses",
      "0009-list",
      "0010-plan",
      "0011-routes",
      "0012-floor",
      "0013-bench",
    ])
    await db.raw("UPDATE shipment SET liftgate = TRUE WHERE id = 2")
    expect(await migrate(db, migrations.slice(0, 15))).toEqual(["0014-tariffs", "0015-quotes"])
    sql(
      socket,
      `USE ${name}; SET FOREIGN_KEY_CHECKS = 0;
      INSERT INTO order_source (id, code, name, kind) VALUES (50, 'api', 'Orders by API', 'api');
      INSERT INTO api_token (id, name, token_hash, rights, warehouse_id, source_id, created_at, created_by, expires_at)
        VALUES (1, 'Shop', 'a', '[]', 1, 50, NOW(), 'x', NOW()), (2, 'Depot', 'b', '[]', 2, 50, NOW(), 'x', NOW()), (3, 'Third', 'c', '[]', 1, 50, NOW(), 'x', NOW());
      UPDATE sales_order SET source_id = 50;`,
    )
    await db("warehouse").insert({
      ...(there(await db("warehouse").first()) as NewWarehouseRow),
      id: 2,
      code: "RNO",
      name: "Reno",
    })
    expect(await migrate(db, migrations.slice(0, 16))).toEqual(["0016-defence"])
    expect(await migrate(db, migrations.slice(0, 17))).toEqual(["0017-one-answer"])
    expect(await migrate(db)).toEqual([
      "0018-words",
      "0019-cheap-pages",
      "0020-shipping-runs",
      "0021-printers",
      "0022-own-papers",
      "0023-returns",
      "0024-preferences",
      "0025-run-trucks",
      "0026-packing",
      "0027-lots",
      "0028-advice",
      "0029-papers",
      "0030-closing",
      "0031-booked",
      "0032-driver",
      "0033-elsewhere",
      "0034-handed",
      "0035-edi",
      "0036-rounds",
      "0037-drop-off",
      "0038-tracking",
      "0039-telling",
      "0040-reports",
      "0041-goods-returned",
      "0042-claims",
    ])
    // who signed in before reads as before
    expect(await db("user").distinct("language", "clock")).toEqual([{ language: "en", clock: "24" }])
    expect(await migrate(db)).toEqual([])
    // orders of before leave as they would have, and no source is told our cost unasked
    expect(await db("sales_order").distinct("chosen_ship_on", "lines_changed_at", "joined_for")).toEqual([
      { chosen_ship_on: null, lines_changed_at: null, joined_for: null },
    ])
    expect(await db("order_source").where({ report_cost: true })).toEqual([])
    // tokens that shared a source have their own; the orders of a warehouse went to its first token
    const own = await db("api_token").orderBy("id").pluck("source_id")
    expect(new Set([...own, 50]).size).toBe(4)
    expect(await db("sales_order").distinct("source_id").pluck("source_id")).toEqual([own[0]])
    // what differs by case is two from now on, and what was there is as it was
    await db("item").insert({ ...(there(await db("item").first()) as NewItemRow), id: 2, sku: "x" })
    expect(await db("item").orderBy("id").pluck("sku")).toEqual(["X", "x"])
    expect(await db("item").where({ sku: "X" }).pluck("id")).toEqual([1])
    // a liftgate that was asked for is an option that is
    expect(await db("shipment").orderBy("id").pluck("wishes")).toEqual([{}, { options: ["liftgate"] }])
    expect(await db("user_warehouse")).toEqual([{ user_id: 7, warehouse_id: 1 }])
    // bought orders have left the line, open ones are on it
    expect((await db("sales_order").orderBy("id").pluck("left_line_at")).map((at) => at !== null)).toEqual([
      true,
      false,
    ])
    // 4 × 1.5 kg and 0.25 kg of carton
    expect(Number(there(await db("package").first("sent_kg")).sent_kg)).toBe(6.25)
    // tariffs of before are kept, but services are priced by none until a document is put in force
    expect(await db("tariff").count({ n: "id" }).first()).toEqual({ n: 1 })
    expect(await servicesOn(db, "2026-11-24")).toMatchObject([{ code: "LKG", versions: [] }])
  } finally {
    await db.destroy()
    sql(socket, `DROP DATABASE ${name}`)
  }
})
