/** Sends a report to an order's source. The source takes a message id once; again changes nothing. Throws to try again. */
export async function sendReport(url: string, messageId: string, payload: unknown, timeLimitMs = 4_000): Promise<void> {
  const response = await fetch(url, {
    method: "POST",
    headers: { "content-type": "application/json", "idempotency-key": messageId },
    body: JSON.stringify(payload),
    signal: AbortSignal.timeout(timeLimitMs),
  })
  await response.arrayBuffer()
  if (!response.ok) throw new Error(`the order source answered ${response.status}`)
}
