import { CornerDownLeft } from "lucide-react"
import type { MouseEvent, RefObject } from "react"
import { Form, Link } from "react-router"
import type { Plate } from "./Sill.tsx"

// the plate may show the next step before a double click is over: its second half presses nothing
const oncePerDoubleClick = (event: MouseEvent) => {
  if (event.detail < 2) return
  event.preventDefault()
  event.stopPropagation()
}

/** The primary action: what Enter does, by its own form, a link, or the form of the screen. */
export function EnterPlate({
  plate,
  busy,
  form: plateForm,
  link: plateLink,
}: {
  plate: Plate
  busy: boolean
  form: RefObject<HTMLFormElement | null>
  link: RefObject<HTMLAnchorElement | null>
}) {
  const plateInside = (
    <>
      <span className="plate-key" aria-hidden="true">
        <CornerDownLeft size={30} strokeWidth={2.5} />
      </span>
      <span className="plate-words">
        <strong>{plate.verb}</strong>
        <small>{plate.detail}</small>
      </span>
    </>
  )
  return (
    <div
      id="enter-plate"
      className={plate.ready ? "plate ready" : "plate"}
      data-busy={busy}
      onClickCapture={oncePerDoubleClick}
    >
      {!plate.ready ? (
        <div className="plate-body" role="status">
          {plateInside}
        </div>
      ) : plate.to ? (
        <Link ref={plateLink} to={plate.to} className="plate-body">
          {plateInside}
        </Link>
      ) : plate.form ? (
        <button type="submit" form={plate.form} className="plate-body" disabled={busy}>
          {plateInside}
        </button>
      ) : (
        <Form method="post" ref={plateForm}>
          {Object.entries(plate.send ?? {}).map(([name, value]) => (
            <input key={name} type="hidden" name={name} value={value} />
          ))}
          <button type="submit" className="plate-body" disabled={busy}>
            {plateInside}
          </button>
        </Form>
      )}
    </div>
  )
}
