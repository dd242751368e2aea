/** The names of the acts in a text: the keys of what `act(…)`, or a function of the file that makes one, makes. */
export function actsIn(text: string): string[] {
  const makers = [...text.matchAll(/const (\w+) = \([^)]*\) =>\s*act\(/g)].map((one) => one[1])
  const key = new RegExp(`(?:^|[{,])\\s*(?:"([\\w-]+)"|(\\w+)): (?:${["act", ...makers].join("|")})\\(`, "gm")
  return [...text.matchAll(key)].flatMap((one) => one[1] ?? one[2] ?? [])
}
