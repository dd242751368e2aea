import { whyNotMade } from "server/papers/unprintable.ts"
import { sayReasons } from "words/reasons.ts"

/** A PDF made just now, to be looked at in the browser; 404 for none, and 422 in words where a text can't be printed. */
export async function pdf(made: Promise<{ readonly name: string; readonly bytes: Buffer } | null>): Promise<Response> {
  try {
    const paper = await made
    if (!paper) throw new Response("", { status: 404 })
    return new Response(new Uint8Array(paper.bytes), {
      headers: {
        "content-type": "application/pdf",
        "content-disposition": `inline; filename="${paper.name}.pdf"`,
        "cache-control": "private, no-store",
      },
    })
  } catch (error) {
    const why = whyNotMade(error)
    if (!why) throw error
    return new Response(`${sayReasons(why)}\n`, {
      status: 422,
      headers: { "content-type": "text/plain; charset=utf-8" },
    })
  }
}
