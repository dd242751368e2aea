/** The lane to a receiver, by which on-time is measured: country and state, or the country where it has none. */
export const laneTo = ({ country, state }: { readonly country: string; readonly state: string }): string =>
  [country, state].filter(Boolean).join("-").slice(0, 12)
