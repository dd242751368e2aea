/**
 * A path of our own to go to after signing in, or "/" for anything else. The text is resolved as browsers do, which drop
 * tabs and line breaks and read `\` as `/`; what then is another site's is not followed.
 *
 * @example ownPath("/orders?find=yeast") // "/orders?find=yeast"
 * @example ownPath("/\t/elsewhere.example") // "/"
 */
export function ownPath(to: string | null): string {
  const here = "http://varnok.invalid"
  if (!to || to.length > 2_000 || !URL.canParse(to, here)) return "/"
  const at = new URL(to, here)
  if (at.origin !== here || at.username || at.password) return "/"
  const path = at.pathname + at.search + at.hash
  // "/.//elsewhere" resolves to a path that begins like an address of another site
  return /^\/(?![/\\])/.test(path) ? path : "/"
}
