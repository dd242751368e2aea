import { Button, Input, NativeSelect } from "@chakra-ui/react"
import { useRef } from "react"
import { useNavigation } from "react-router"
import { sessionTimes, sessionTimesForm, setSessionTimes } from "server/accounts/sessions.ts"
import { addUser, changeUser, changeUserForm, newUserForm, type UserRow, users } from "server/accounts/users.ts"
import { roles } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { warehouses } from "server/setup/warehouse.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import { act, always, answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/users"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "users.manage")
  return {
    users: await users(work),
    places: await warehouses(work.db),
    roles: [...roles],
    times: await sessionTimes(work.db),
    rights: setUpRights(work.actor),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    add: act(
      newUserForm.extend({ warehouse: newUserForm.shape.warehouse.prefault([]) }),
      addUser,
      (_, { name }) => say("users.added", { name }),
      {
        at: {
          "user.username-taken": "username",
          "user.password-short": "password",
          "user.password-long": "password",
          "user.password-common": "password",
          "user.password-own": "password",
          "user.username-shape": "username",
          "user.no-name": "name",
        },
      },
    ),
    times: act(
      sessionTimesForm,
      (work, times) => always(setSessionTimes(work, times)),
      () => say("users.times-saved"),
    ),
    change: act(changeUserForm.extend({ warehouse: changeUserForm.shape.warehouse.prefault([]) }), changeUser, () =>
      say("users.changed"),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.users")} · ${say("app.name")}` }]

export default function Users({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const { times } = loaderData
  // the form is emptied by a user who was added, never by a refusal
  const added = useRef("")
  if (actionData && !actionData.answer.refused) added.current = actionData.answer.key
  const busy = useNavigation().state !== "idle"
  return (
    <Screen
      ribbon={{}}
      name="users"
      sill={{
        plate: { verb: say("users.plate"), detail: say("users.plate-detail"), ready: true, form: "new-user" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.users" rights={loaderData.rights} />
      <div className="two wide-left">
        <section className="scrolls">
          <Table
            caption={say("setup.users")}
            rows={loaderData.users}
            rowKey={(user) => user.id}
            rowClass={(user) => (user.active ? undefined : "pale")}
            columns={[
              { name: "name", head: say("users.head.name"), heads: true, cell: (user) => user.name },
              { name: "username", head: say("users.head.username"), className: "code", cell: (user) => user.username },
              {
                name: "role",
                head: say("users.head.role"),
                cell: (user) => (
                  <>
                    {say(`role.${user.role}`)}
                    {user.active ? "" : `, ${say("users.inactive")}`}
                  </>
                ),
              },
              {
                name: "warehouses",
                head: say("users.head.warehouses"),
                cell: (user) =>
                  loaderData.places
                    .filter((place) => user.warehouses.includes(place.id))
                    .map((place) => place.name)
                    .join(", "),
              },
              {
                name: "seen",
                head: say("users.head.seen"),
                by: (user) => user.lastSeen?.getTime() ?? 0,
                cell: (user) => (user.lastSeen ? dayAndClock(user.lastSeen, zone) : "–"),
              },
              {
                name: "change",
                head: say("users.head.change"),
                cell: (user) => (
                  <details className="carton-edit" name="user-edit">
                    <summary>{say("users.head.change")}</summary>
                    <div className="carton-sheet left">
                      <Change user={user} places={loaderData.places} roles={loaderData.roles} busy={busy} />
                    </div>
                  </details>
                ),
              },
            ]}
          />
          <div className="sessions">
            <h2>{say("users.sessions")}</h2>
            <ActForm intent="times" className="session-times">
              <TextField
                name="idleMinutes"
                label="users.idle"
                type="number"
                value={String(times.idleMinutes)}
                most={4}
              />
              <TextField
                name="longestHours"
                label="users.longest"
                type="number"
                value={String(times.longestHours)}
                most={3}
              />
              <Button type="submit" disabled={busy}>
                {say("users.save")}
              </Button>
            </ActForm>
          </div>
        </section>
        <section className="item-edit">
          <h2>{say("users.new")}</h2>
          <ActForm intent="add" id="new-user" key={added.current}>
            <TextField name="name" id="new-name" label="users.head.name" most={200} needed />
            <TextField name="username" id="new-username" label="users.head.username" most={200} needed />
            <Roles id="new-role" roles={loaderData.roles} value="clerk" />
            <Places id="new" places={loaderData.places} chosen={loaderData.places.slice(0, 1).map((one) => one.id)} />
            <TextField name="password" id="new-password" label="users.password" most={200} needed type="password" />
            <Button type="submit" disabled={busy}>
              {say("users.add")}
            </Button>
          </ActForm>
          <h2>{say("users.rights")}</h2>
          <dl className="rights">
            {loaderData.roles.map((role) => (
              <div key={role}>
                <dt>{say(`role.${role}`)}</dt>
                <dd>{say(`role.${role}.may`)}</dd>
              </div>
            ))}
          </dl>
        </section>
      </div>
    </Screen>
  )
}

function Roles({ id, roles: all, value }: { id: string; roles: readonly string[]; value: string }) {
  return (
    <div className="field">
      <label htmlFor={id}>{say("users.head.role")}</label>
      <NativeSelect.Root>
        <NativeSelect.Field id={id} name="role" defaultValue={value}>
          {all.map((role) => (
            <option key={role} value={role}>
              {wordFor("role", role)}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </div>
  )
}

function Places({
  id,
  places,
  chosen,
}: {
  id: string
  places: readonly { id: number; name: string }[]
  chosen: readonly number[]
}) {
  return (
    <fieldset className="field">
      <legend>{say("users.head.warehouses")}</legend>
      {places.map((place) => (
        <label key={place.id} className="check" htmlFor={`${id}-${place.id}`}>
          <input
            id={`${id}-${place.id}`}
            type="checkbox"
            name="warehouse"
            value={place.id}
            defaultChecked={chosen.includes(place.id)}
          />{" "}
          {place.name}
        </label>
      ))}
    </fieldset>
  )
}

function Change({
  user,
  places,
  roles: all,
  busy,
}: {
  user: UserRow
  places: readonly { id: number; name: string }[]
  roles: readonly string[]
  busy: boolean
}) {
  return (
    <ActForm intent="change" sends={{ id: user.id }} className="stack">
      <Roles id={`role-${user.id}`} roles={all} value={user.role} />
      <Places id={`user-${user.id}`} places={places} chosen={user.warehouses} />
      <div className="field">
        <label htmlFor={`active-${user.id}`}>{say("users.works-here")}</label>
        <NativeSelect.Root>
          <NativeSelect.Field id={`active-${user.id}`} name="active" defaultValue={user.active ? "yes" : "no"}>
            <option value="yes">{say("users.yes")}</option>
            <option value="no">{say("users.no")}</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </div>
      <div className="field">
        <label htmlFor={`password-${user.id}`}>{say("users.new-password")}</label>
        <Input id={`password-${user.id}`} name="password" type="password" autoComplete="new-password" maxLength={200} />
      </div>
      <Button type="submit" disabled={busy}>
        {say("users.save")}
      </Button>
    </ActForm>
  )
}
