/** A PDF made just now, to be looked at in the browser; 404 for none. */
export function pdf(paper: { readonly name: string; readonly bytes: Buffer } | null): Response {
  if (!paper) throw new Response("", { status: 404 })
  return new Response(new Uint8Array(paper.bytes), {
    headers: {
      "content-type": "application/pdf",
      "content-disposition": `inline; filename="${paper.name}.pdf"`,
      "cache-control": "private, no-store",
    },
  })
}
