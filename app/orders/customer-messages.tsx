import { Button } from "@chakra-ui/react"
import { topics } from "core/telling/index.ts"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { messageStates, messagesAtOnce, searchMessages, tellAgain, waitingCounts } from "server/telling/list.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayTrouble } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/customer-messages"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.see")
  const { asked, one } = searchAsked(request)
  const search = { ...asked, topic: one("topic", topics, ""), state: one("state", messageStates, "") }
  const found = await searchMessages(work.db, work.warehouse.id, search)
  return {
    search,
    states: [...messageStates],
    messages: found.slice(0, messagesAtOnce),
    more: found.length > messagesAtOnce,
    waiting: await waitingCounts(work.db, work.warehouse.id),
    mayWork: may(work.actor, "orders.work"),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    again: act(
      z.object({ message: field.id }),
      (work, { message }) => tellAgain(work, message),
      ({ address }) => say("tell.is-again", { address }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("tell.title")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["messages"][number]

export default function CustomerMessages({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  const { search, messages, more, waiting, mayWork, states } = loaderData
  return (
    <SearchedList
      name="customer-messages"
      title="tell.title"
      head={<p>{say("tell.waiting-count", waiting)}</p>}
      answer={actionData?.answer}
      find="tell.find"
      asked={search}
      fields={[
        searchChoice(
          { name: "topic", label: "tell.topic", value: search.topic },
          topics,
          (topic) => say(`tell.topic.${topic}`),
          say("tell.any-topic"),
        ),
        searchChoice(
          { name: "state", label: "tell.state", value: search.state },
          states,
          (state) => say(`tell.state.${state}`),
          say("tell.any-state"),
        ),
      ]}
      rows={messages}
      more={more}
      columns={columnsOf(zone, mayWork)}
      nothing="tell.none-found"
      none="tell.none"
    />
  )
}

const columnsOf = (zone: string, mayWork: boolean): readonly TableColumn<Row>[] => [
  {
    name: "order",
    head: say("tell.order"),
    heads: true,
    cell: (message) => <Link to={`/orders/${message.orderNumber}`}>{message.orderNumber}</Link>,
  },
  {
    name: "topic",
    head: say("tell.topic"),
    cell: (message) => (
      <>
        {say(`tell.topic.${message.topic}`)}
        <br />
        <small>{message.subject}</small>
      </>
    ),
  },
  {
    name: "to",
    head: say("tell.to"),
    cell: (message) => (
      <>
        {message.address}
        <br />
        <small>{say(`tell.way.${message.way}`)}</small>
      </>
    ),
  },
  { name: "made", head: say("tell.made"), className: "made", cell: (message) => dayAndClock(message.madeAt, zone) },
  {
    name: "state",
    head: say("tell.state"),
    cell: (message) => (
      <span className={message.state === "refused" || message.state === "bounced" ? "ember" : undefined}>
        {message.waitsUntil
          ? say("tell.until", { time: dayAndClock(message.waitsUntil, zone) })
          : say(`tell.state.${message.state}`)}
        {message.trouble && message.state !== "sent" ? ` ${sayTrouble(message.trouble)}` : ""}
      </span>
    ),
  },
  {
    name: "acts",
    head: "",
    className: "acts",
    cell: (message) =>
      mayWork && ["refused", "bounced", "blocked"].includes(message.state) && message.address !== "" ? (
        <Act intent="again" sends={{ message: message.id }}>
          <Button type="submit" size="sm">
            {say("tell.again")}
          </Button>
        </Act>
      ) : null,
  },
]
