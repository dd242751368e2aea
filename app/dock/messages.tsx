import { Button } from "@chakra-ui/react"
import type { Reason } from "core/refusal/index.ts"
import { messageKinds, messageStates } from "core/shipNotice/routing.ts"
import { Form, Link, useNavigation } from "react-router"
import { may } from "server/actors/index.ts"
import { acknowledgeByHand, sendAgain, takeAnswers } from "server/edi/answers.ts"
import { messagesAtOnce, searchMessages } from "server/edi/list.ts"
import { workContext } from "server/http/context.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { dockPlate, SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/messages"

const states = ["open", ...messageStates] as const

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { asked, one } = searchAsked(request)
  const search = { ...asked, kind: one("kind", messageKinds, ""), state: one("state", states, "") }
  const found = await searchMessages(work.db, work.warehouse.id, search)
  return {
    search,
    messages: found.slice(0, messagesAtOnce),
    more: found.length > messagesAtOnce,
    mayWork: may(work.actor, "dock.work"),
  }
}

const ofMessage = z.object({ message: field.id })

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(
    request,
    work,
    {
      again: act(
        ofMessage,
        (work, { message }) => sendAgain(work, message),
        ({ name }) => say("edi.is-sent", { message: name }),
      ),
      acknowledge: act(
        ofMessage,
        (work, { message }) => acknowledgeByHand(work, message),
        ({ name }) => say("edi.is-acknowledged", { message: name }),
      ),
    },
    {
      upload: async (file) => {
        const outcome = await takeAnswers(work, file)
        return outcome.ok ? done(say("edi.answers-read", outcome.value)) : refusal(sayReasons(outcome.reasons))
      },
    },
  )
}

export const meta: Route.MetaFunction = () => [{ title: `${say("edi.title")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["messages"][number]

export default function Messages({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const busy = useNavigation().state !== "idle"
  useLive(null)
  const { search, messages, more, mayWork } = loaderData
  return (
    <SearchedList
      name="messages"
      title="edi.title"
      plate={dockPlate()}
      answer={actionData?.answer}
      find="edi.find"
      asked={search}
      fields={[
        searchChoice(
          { name: "kind", label: "edi.kind", value: search.kind },
          messageKinds,
          (kind) => say(`edi.kind.${kind}`),
          say("edi.any-kind"),
        ),
        searchChoice(
          { name: "state", label: "edi.state", value: search.state },
          states,
          (state) => say(`edi.state.${state}`),
          say("edi.any-state"),
        ),
      ]}
      rows={messages}
      more={more}
      columns={columnsOf(zone, mayWork)}
      nothing="edi.none"
    >
      {mayWork ? (
        <Form method="post" encType="multipart/form-data" className="upload">
          <div className="field">
            <label htmlFor="answers">{say("edi.answers-file")}</label>
            <FileInput id="answers" accept=".edi,.txt,application/edifact,text/plain" />
          </div>
          <Button type="submit" disabled={busy}>
            {say("edi.answers")}
          </Button>
        </Form>
      ) : null}
    </SearchedList>
  )
}

const columnsOf = (zone: string, mayWork: boolean): readonly TableColumn<Row>[] => [
  {
    name: "number",
    head: say("edi.number"),
    heads: true,
    cell: (message) => (
      <a href={`/dock/messages/${message.id}`} className="code" download={message.name}>
        {message.name}
      </a>
    ),
  },
  {
    name: "kind",
    head: say("edi.kind"),
    cell: (message) => (
      <>
        {say(`edi.kind.${message.kind}`)}
        <br />
        <small>{message.cancels ? say("edi.cancels") : say("edi.packages", { n: message.packages })}</small>
      </>
    ),
  },
  {
    name: "order",
    head: say("edi.order"),
    cell: (message) => (
      <>
        <Link to={`/orders/${message.orderNumber}`}>{message.orderNumber}</Link>
        <br />
        {message.customer}
      </>
    ),
  },
  {
    name: "to",
    head: say("edi.to"),
    cell: (message) => (
      <>
        {message.to}
        <br />
        <small>{say(`edi.way.${message.way}`)}</small>
      </>
    ),
  },
  { name: "made", head: say("edi.made"), className: "made", cell: (message) => dayAndClock(message.madeAt, zone) },
  {
    name: "state",
    head: say("edi.state"),
    cell: (message) => (
      <span className={message.state === "refused" ? "ember" : undefined}>
        {message.trouble ? sayReason(message.trouble as Reason) : say(`edi.state.${message.state}`)}
        {message.state === "acknowledged" && message.answeredBy
          ? ` ${say("edi.answered-by", { name: message.answeredBy })}`
          : ""}
      </span>
    ),
  },
  {
    name: "acts",
    head: "",
    className: "acts",
    cell: (message) =>
      mayWork && (message.state === "sent" || message.state === "refused") ? (
        <>
          <Act intent="again" sends={{ message: message.id }}>
            <Button type="submit" size="sm">
              {say("edi.again")}
            </Button>
          </Act>
          <Act intent="acknowledge" sends={{ message: message.id }}>
            <Button type="submit" size="sm" variant="ghost">
              {say("edi.acknowledge")}
            </Button>
          </Act>
        </>
      ) : null,
  },
]
