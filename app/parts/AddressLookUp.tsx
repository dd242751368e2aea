import { useState } from "react"
import type { BookAddress } from "server/addresses/book.ts"
import { LookUp } from "./LookUp.tsx"

/** Offers addresses of the directory and of the address service while one types; choosing one empties the field. */
export function AddressLookUp({ onChoose }: { onChoose: (address: BookAddress) => void }) {
  const [typed, setTyped] = useState("")
  return (
    <LookUp<BookAddress>
      name="find-address"
      id="find-address"
      label="ship-to.find"
      value={typed}
      from="/look-up/addresses"
      textOf={bookText}
      show={(one) => (
        <>
          {one.code ? <b className="code">{one.code}</b> : null} {one.company || one.attention}, {one.street},{" "}
          {one.city} {one.state || one.country} {one.postalCode}
        </>
      )}
      onChange={setTyped}
      onChoose={(one) => {
        setTyped("")
        onChoose(one)
      }}
    />
  )
}

/** What tells an address of a list from the others. */
export const bookText = (one: BookAddress): string =>
  `${one.code} ${one.company} ${one.attention} ${one.street} ${one.city} ${one.postalCode} ${one.id}`
