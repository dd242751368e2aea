/** A PDF made just now, to be looked at in the browser. */
export const pdf = (bytes: Buffer, name: string): Response =>
  new Response(new Uint8Array(bytes), {
    headers: {
      "content-type": "application/pdf",
      "content-disposition": `inline; filename="${name}.pdf"`,
      "cache-control": "private, no-store",
    },
  })
