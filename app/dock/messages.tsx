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
import { FindForm, Pages, pageAsked } from "../parts/Searched.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/messages"

const asked = ["open", ...messageStates] as const

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const query = new URL(request.url).searchParams
  const search = {
    text: (query.get("find") ?? "").slice(0, 60),
    kind: messageKinds.find((one) => one === query.get("kind")) ?? ("" as const),
    state: asked.find((one) => one === query.get("state")) ?? ("" as const),
    page: pageAsked(query),
  }
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
    <Screen
      ribbon={{}}
      name="messages"
      sill={{
        plate: { verb: say("form.to-dock"), detail: "", ready: true, to: "/dock" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("edi.title")}</h1>
      </div>
      <FindForm
        label="edi.find"
        value={search.text}
        choices={[
          {
            name: "kind",
            label: "edi.kind",
            value: search.kind,
            options: [
              { value: "", text: say("edi.any-kind") },
              ...messageKinds.map((kind) => ({ value: kind, text: say(`edi.kind.${kind}`) })),
            ],
          },
          {
            name: "state",
            label: "edi.state",
            value: search.state,
            options: [
              { value: "", text: say("edi.any-state") },
              ...asked.map((state) => ({ value: state, text: say(`edi.state.${state}`) })),
            ],
          },
        ]}
      />
      {messages.length === 0 ? (
        <p className="nothing">{say("edi.none")}</p>
      ) : (
        <div className="message-list">
          <Table
            caption={say("edi.title")}
            rows={messages}
            rowKey={(message) => message.id}
            sorts={false}
            columns={columnsOf(zone, mayWork)}
          />
        </div>
      )}
      <Pages page={search.page} more={more} search={{ find: search.text, kind: search.kind, state: search.state }} />
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
    </Screen>
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
