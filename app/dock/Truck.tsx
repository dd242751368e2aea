/** The packages of a truck as rectangles: ink is on it, hi waits at the door, an ember outline stays. */
export function Truck({
  packages,
  closed,
}: {
  packages: readonly { id: number; name: string; state: string }[]
  closed: boolean
}) {
  return (
    <ul className={closed ? "truck closed" : "truck"}>
      {packages.map((one) => (
        <li key={one.id} className={one.state}>
          {one.name.replace(/^\d\d/, "")}
        </li>
      ))}
    </ul>
  )
}
