import { connect, patience } from "./connection.ts"
import { migrate } from "./migrate.ts"

const db = connect(process.env.VARNOK_DATABASE, patience.schema)
const taken = await migrate(db)
process.stdout.write(taken.length > 0 ? `migrated: ${taken.join(", ")}\n` : "the schema is up to date\n")
await db.destroy()
