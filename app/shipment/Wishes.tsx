import { Button, Input, NativeSelect } from "@chakra-ui/react"
import { payerTerms } from "core/rules/index.ts"
import { Link } from "react-router"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { useShell } from "../shell/useNow.ts"
import type { WishesView } from "./rateView.server.ts"

const signed = (cost: string): string => (cost.startsWith("-") ? `−${cost.slice(1)}` : `+${cost}`)

/**
 * What the chosen service can be asked for besides carrying, each with what it costs more, what it covers, and who
 * pays. What is asked for and it does not know can be dropped here.
 */
export function Wishes({
  wishes,
  formKey,
  mayCharge,
  orderNumber,
}: {
  wishes: WishesView
  formKey: string
  mayCharge: boolean
  orderNumber: string
}) {
  const { cover } = wishes
  const asks = (option: string) => wishes.options.some((one) => one === option)
  return (
    <section className="wishes" aria-labelledby="wishes-title">
      <h2 id="wishes-title">
        {wishes.service ? say("wish.title", { service: wishes.serviceName }) : say("wish.title-none")}
      </h2>
      <Act intent="ask-option" sends={{ key: formKey, service: wishes.service ?? "" }} className="wish-options">
        {wishes.known.map((one) => (
          <Button
            key={one.option}
            type="submit"
            name={one.asked ? "drop" : "ask"}
            value={one.option}
            aria-pressed={one.asked}
            disabled={!one.asked && one.refusals.length > 0}
            title={one.refusals.length > 0 ? sayReasons(one.refusals) : undefined}
          >
            {wordFor("option", one.option)}
            {one.cost === null ? null : <b>{signed(one.cost)}</b>}
          </Button>
        ))}
        {wishes.unknown.map((option) => (
          <Button key={option} type="submit" name="drop" value={option} aria-pressed>
            {wordFor("option", option)} <b>{say("wish.not-known")}</b>
          </Button>
        ))}
      </Act>
      {wishes.handing ? <Handing handing={wishes.handing} orderNumber={orderNumber} /> : null}
      {wishes.optionsBy ? (
        <p className="field-note">
          {say("preference.asked-by", {
            by: say(`preference.by.${wishes.optionsBy.kind}`, { name: wishes.optionsBy.name }),
          })}
        </p>
      ) : null}
      {cover ? (
        <p className="wish-cover">
          {say(Number(cover.included) > 0 ? "wish.cover" : "wish.no-cover", { included: cover.included })}
          {cover.worth ? ` ${say("wish.worth", { worth: cover.worth })}` : ""}
          {wishes.known.some((one) => one.option === "declared-value")
            ? ` ${say("wish.cover-most", { most: cover.most })}`
            : ""}
        </p>
      ) : null}
      <p>
        <Link to={`/orders/quotes/new?order=${orderNumber}`}>{say("quote.from-order")}</Link>
      </p>
      <div className="wish-forms">
        {asks("declared-value") ? (
          <Answer
            intent="ask-declared"
            name="declared"
            value={wishes.declared ?? ""}
            formKey={formKey}
            hint={cover?.worth}
          />
        ) : null}
        {asks("dry-ice") ? (
          <Answer intent="ask-dry-ice" name="kg" value={wishes.dryIceKg ?? "1"} formKey={formKey} />
        ) : null}
        {asks("hold-at-location") ? (
          <Answer intent="ask-hold" name="hold" value={wishes.holdAt} formKey={formKey} wide />
        ) : null}
        <ActForm intent="ask-return" sends={{ key: formKey }}>
          <label htmlFor="return-along">{say("wish.return")}</label>
          <NativeSelect.Root width="240px" key={wishes.returnLabel?.value ?? ""}>
            <NativeSelect.Field id="return-along" name="label" defaultValue={wishes.returnLabel?.value ?? ""}>
              <option value="">{say("wish.no-return")}</option>
              {(["print", "mail"] as const).map((one) => (
                <option key={one} value={one}>
                  {say(`return.label.${one}`)}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <Button type="submit">{say("wish.set")}</Button>
          {wishes.returnLabel ? (
            <small>{wordFor("rule.by", wishes.returnLabel.by.kind, { name: wishes.returnLabel.by.name })}</small>
          ) : null}
        </ActForm>
        {wishes.pallets ? (
          <Act intent="ask-stackable" sends={{ key: formKey, stackable: wishes.stackable ? "no" : "yes" }}>
            <Button type="submit" aria-pressed={wishes.stackable}>
              {say("wish.stackable")}
            </Button>
          </Act>
        ) : null}
        <ActForm intent="ask-payer" sends={{ key: formKey, service: wishes.service ?? "" }}>
          <label htmlFor="payer">{say("wish.payer")}</label>
          <NativeSelect.Root width="170px" key={wishes.billing.terms}>
            <NativeSelect.Field id="payer" name="terms" defaultValue={wishes.billing.terms}>
              {payerTerms.map((terms) => (
                <option key={terms} value={terms}>
                  {say(`payer.${terms}`)}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <label htmlFor="payer-account">{say("wish.account")}</label>
          <Input
            id="payer-account"
            name="account"
            width="130px"
            key={wishes.billing.account}
            defaultValue={wishes.billing.account}
            maxLength={40}
          />
          <Button type="submit">{say("wish.set")}</Button>
        </ActForm>
        {mayCharge ? (
          <ActForm intent="charge" sends={{ key: formKey }}>
            <label htmlFor="charged">{say("wish.charge")}</label>
            <Input
              id="charged"
              name="amount"
              width="90px"
              inputMode="decimal"
              key={wishes.byHand?.amount ?? ""}
              defaultValue={wishes.byHand?.amount ?? ""}
            />
            <label htmlFor="charged-why">{say("wish.charge-why")}</label>
            <Input
              id="charged-why"
              name="why"
              width="180px"
              key={wishes.byHand?.why ?? ""}
              defaultValue={wishes.byHand?.why ?? ""}
              maxLength={120}
            />
            <Button type="submit">{say("wish.set")}</Button>
          </ActForm>
        ) : null}
        {wishes.dutiesPayers.length > 0 ? (
          <ActForm intent="ask-duties" sends={{ key: formKey }}>
            <label htmlFor="duties">{say("wish.duties")}</label>
            <NativeSelect.Root width="170px" key={wishes.dutiesPayer ?? ""}>
              <NativeSelect.Field id="duties" name="payer" defaultValue={wishes.dutiesPayer ?? ""}>
                <option value="">{say("wish.duties-incoterm")}</option>
                {wishes.dutiesPayers.map((payer) => (
                  <option key={payer} value={payer}>
                    {wordFor("payer", payer)}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
            <Button type="submit">{say("wish.set")}</Button>
          </ActForm>
        ) : null}
      </div>
    </section>
  )
}

/** How it gets to the carrier, and what that costs, before anything is bought. */
function Handing({ handing, orderNumber }: { handing: NonNullable<WishesView["handing"]>; orderNumber: string }) {
  const { zone } = useShell()
  const { truck, drop, fee, dropsOff } = handing
  const book = `/dock/book?carrier=${handing.carrierCode}&order=${orderNumber}`
  return (
    <ul className="handing" aria-label={say("hand.title")}>
      {dropsOff && drop ? null : (
        <li className={truck ? undefined : "ember"}>
          {truck
            ? say(truck.onCall ? "hand.on-call" : "hand.truck", {
                door: truck.door,
                time: dayAndClock(truck.cutOff, zone),
                fee: fee ?? "",
              })
            : say("hand.none")}
        </li>
      )}
      {drop ? (
        <li>
          {dropsOff ? <b>{say("hand.drop-chosen")}: </b> : null}
          {say("hand.drop", {
            name: drop.name,
            street: drop.street,
            miles: drop.miles === null ? "–" : drop.miles,
            time: dayAndClock(drop.leaveBy, zone),
          })}
        </li>
      ) : null}
      {fee && !dropsOff ? (
        <li>
          {truck?.onCall ? "" : `${say("hand.booked", { fee })}. `}
          <Link to={book}>{say("hand.book")}</Link>
        </li>
      ) : null}
    </ul>
  )
}

/** One thing that is said of the shipment, with its button. */
function Answer({
  intent,
  name,
  value,
  formKey,
  hint = null,
  wide = false,
}: {
  intent: string
  name: string
  value: string
  formKey: string
  hint?: string | null
  wide?: boolean
}) {
  return (
    <ActForm intent={intent} sends={{ key: formKey }}>
      <label htmlFor={`wish-${name}`}>{wordFor("wish", name)}</label>
      <Input
        id={`wish-${name}`}
        name={name}
        width={wide ? "220px" : "110px"}
        inputMode={wide ? undefined : "decimal"}
        key={value}
        defaultValue={value}
        placeholder={hint ?? ""}
        maxLength={120}
      />
      <Button type="submit">{say("wish.set")}</Button>
    </ActForm>
  )
}
