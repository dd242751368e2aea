import { useEffect, useState } from "react"

const place = "varnok.single-keys"

/** Whether single keys act at once on this machine; on until somebody switches them off, and kept in this browser. */
export function useSingleKeys(): readonly [boolean, (on: boolean) => void] {
  const [on, setOn] = useState(true)
  useEffect(() => setOn(localStorage.getItem(place) !== "off"), [])
  return [
    on,
    (wanted) => {
      localStorage.setItem(place, wanted ? "on" : "off")
      setOn(wanted)
    },
  ]
}
