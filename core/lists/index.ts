/** Things by what they have in common, in their order. */
export function grouped<Key, One>(all: readonly One[], keyOf: (one: One) => Key): Map<Key, One[]> {
  const groups = new Map<Key, One[]>()
  for (const one of all) {
    const group = groups.get(keyOf(one))
    if (group) group.push(one)
    else groups.set(keyOf(one), [one])
  }
  return groups
}
