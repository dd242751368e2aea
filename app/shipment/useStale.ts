import { useEffect } from "react"
import { useNavigation, useRevalidator } from "react-router"

/**
 * Whether the rates on the screen are others by now: from a change of the shipment until it is rated again, and when the
 * truck that they are for has gone; then they are rated again. That the page is read again because somebody else did
 * something is no reason to take the plate from under a hand: what is stale then is refused by the server.
 *
 * @param cutOff of the truck that the chosen service leaves with
 */
export function useStale(cutOff: Date | null, now: Date): boolean {
  const navigation = useNavigation()
  const { revalidate } = useRevalidator()
  const gone = cutOff !== null && now.getTime() > cutOff.getTime()
  useEffect(() => {
    if (gone) void revalidate()
  }, [gone, revalidate])
  return gone || (navigation.state !== "idle" && navigation.formMethod === "POST")
}
