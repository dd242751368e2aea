import { data } from "react-router"
import { calendarOf } from "server/dock/collecting.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/booking-ics"

/** A booked collection as iCalendar. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const file = await calendarOf(work.db, work.warehouse, Number(params.id) || 0)
  if (!file) throw data(null, { status: 404 })
  return new Response(file.text, {
    headers: {
      "content-type": "text/calendar; charset=utf-8",
      "content-disposition": `attachment; filename="${file.name}"`,
    },
  })
}
