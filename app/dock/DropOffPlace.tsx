import { Button } from "@chakra-ui/react"
import { clockTime } from "words/format.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { PlacesMap } from "../parts/PlacesMap.tsx"
import type { OpenDoorData } from "./dockView.server.ts"

/** Where the packages of a drop-off are brought: the carrier's places by distance, on a map, and which is chosen. */
export function DropOffPlace({ one }: { one: OpenDoorData }) {
  const { dropOff } = one
  if (!dropOff) return null
  return (
    <section className="drop-off" aria-label={say("drop.title")}>
      <ol>
        {dropOff.places.map((place) => (
          <li key={place.code} className={place.code === dropOff.code ? "chosen" : undefined}>
            <b>{place.name}</b>
            <br />
            {place.street}, {place.city} {place.state} {place.postalCode}
            <br />
            {place.miles === null ? "" : `${say("drop.miles", { n: place.miles })}, `}
            {say("drop.until", { time: clockTime(place.until) })}
            {place.code === dropOff.code || one.closedAt ? null : (
              <Act intent="drop-place" sends={{ collection: one.id, place: place.code }}>
                <Button type="submit" size="sm">
                  {say("drop.choose")}
                </Button>
              </Act>
            )}
          </li>
        ))}
      </ol>
      <PlacesMap from={dropOff.from} places={dropOff.places} chosen={dropOff.code} />
    </section>
  )
}
