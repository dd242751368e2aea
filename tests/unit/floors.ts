/**
 * The server's floors from the bottom up, and the rooms of each in their order: a room may import those before it, never
 * one after it. What a lower room must tell a higher one goes by a job or a change notice.
 */
export const floors: Readonly<Record<string, readonly string[]>> = {
  ground: "db log clock actors audit jobs live gateways formats pdf bodies compute secrets".split(" "),
  records: "accounts setup packaging addresses goods floorPlan screening orders measures stock documents mail".split(
    " ",
  ),
  trade: "rules rating plan packages packing picking papers reports edi telling tracking".split(" "),
  decisions: ["decisions"],
  steps: "shippingRuns intake outside quotes returns claims shipping advice dock day".split(" "),
  doors: "api http worker".split(" "),
}

/** What the places of `app` share, from the bottom up, and the places. */
export const shared = ["theme", "workers", "shell", "parts"]
export const places =
  "account receiver day orders returns claims intake shippingRuns quotes pick shipment dock papers setup".split(" ")
