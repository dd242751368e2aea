/** A picture from somebody else, to be looked at and nothing more: it runs nothing, and is not taken for something else. */
export const picture = ({ media, bytes }: { readonly media: string; readonly bytes: Buffer }): Response =>
  new Response(new Uint8Array(bytes), {
    headers: {
      "content-type": media,
      "cache-control": "private, max-age=3600",
      "x-content-type-options": "nosniff",
      "content-security-policy": "default-src 'none'",
    },
  })
