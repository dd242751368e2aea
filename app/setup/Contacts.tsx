import { Button } from "@chakra-ui/react"
import { contactRoles, topics, ways } from "core/telling/index.ts"
import type { Contact } from "server/telling/manage.ts"
import { say } from "words/index.ts"
import { paperLanguages } from "words/papers.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"

/** Who of a customer is told, and of what. */
export function Contacts({ customerId, contacts }: { customerId: number; contacts: readonly Contact[] }) {
  return (
    <>
      <h2>{say("tell.contacts")}</h2>
      {contacts.length === 0 ? <p>{say("tell.contacts-none")}</p> : null}
      <ul className="contacts">
        {contacts.map((one) => (
          <li key={one.id}>
            <p>
              <b>{one.address}</b> {one.name}
              <br />
              {say(`tell.role.${one.role}`)}: {one.topics.map((topic) => say(`tell.topic.${topic}`)).join(", ")}
            </p>
            <Act intent="contact-remove" sends={{ id: customerId, contact: one.id }}>
              <button type="submit" className="as-link">
                {say("tell.contact-remove")}
              </button>
            </Act>
          </li>
        ))}
      </ul>
      <ActForm intent="contact" sends={{ id: customerId }} id="contact-form" key={contacts.length}>
        <TextField name="address" id="contact-address" label="tell.contact-address" value="" most={120} />
        <Choice
          name="way"
          id="contact-way"
          label="tell.way"
          value="mail"
          options={ways.map((value) => ({ value, text: say(`tell.way.${value}`) }))}
        />
        <TextField name="name" id="contact-name" label="tell.contact-name" value="" most={60} />
        <Choice
          name="role"
          id="contact-role"
          label="tell.contact-role"
          value="receiving"
          options={contactRoles.map((value) => ({ value, text: say(`tell.role.${value}`) }))}
        />
        <Choice
          name="language"
          id="contact-language"
          label="tell.contact-language"
          value=""
          options={[
            { value: "", text: say("tell.contact-language-own") },
            ...paperLanguages.map((value) => ({ value, text: say(`language.${value}`) })),
          ]}
        />
        <fieldset className="contact-topics">
          <legend>{say("tell.contact-topics")}</legend>
          {topics
            .filter((topic) => topic !== "return-label" && topic !== "quote")
            .map((topic) => (
              <label key={topic} className="tick-line">
                <input
                  type="checkbox"
                  name="topics"
                  value={topic}
                  defaultChecked={["left", "delayed", "ready", "delivered"].includes(topic)}
                />{" "}
                {say(`tell.topic.${topic}`)}
              </label>
            ))}
        </fieldset>
        <Button type="submit">{say("tell.contact-add")}</Button>
      </ActForm>
    </>
  )
}
