import { Button, Field, Input } from "@chakra-ui/react"
import { getFormProps, useForm } from "@conform-to/react"
import { parseWithZod } from "@conform-to/zod/v4"
import { useEffect } from "react"
import { data, Form, redirect, redirectDocument, useNavigation } from "react-router"
import { actorOf, signIn } from "server/accounts/sessions.ts"
import { accountsNamed } from "server/accounts/users.ts"
import { frameContext } from "server/http/context.ts"
import { deviceCookie, deviceToken, sessionCookie, sessionToken } from "server/http/cookies.ts"
import { ownPath } from "server/http/ownPath.ts"
import { countSignIn, forgetSignIns } from "server/http/signInLimit.ts"
import { say, sayCode } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { z } from "zod"
import { forgetScans } from "../shell/useScanQueue.ts"
import type { Route } from "./+types/sign-in"

const form = z.object({
  username: z
    .string({ error: "sign-in.missing" })
    .trim()
    .toLowerCase()
    .min(1, { error: "sign-in.missing" })
    .max(40, { error: "sign-in.too-long" }),
  password: z
    .string({ error: "sign-in.missing" })
    .min(1, { error: "sign-in.missing" })
    .max(200, { error: "sign-in.too-long" }),
})

export async function loader({ request, context }: Route.LoaderArgs) {
  const { db, demo } = context.get(frameContext)
  const token = await sessionToken(request)
  if (token && (await actorOf(db, token))) throw redirect("/")
  const users = demo ? await accountsNamed(db, demo.accounts) : []
  return { accounts: users.map((user) => ({ ...user, password: demo?.password as string })) }
}

export async function action({ request, context }: Route.ActionArgs) {
  const frame = context.get(frameContext)
  const sent = await request.formData()
  // the parser's work grows with the square of what it is given: it sees the two fields that there are, once each
  const known = new FormData()
  for (const name of ["username", "password"] as const) known.set(name, String(sent.get(name) ?? "").slice(0, 1_000))
  const submission = parseWithZod(known, { schema: form })
  if (submission.status !== "success") return data(submission.reply({ hideFields: ["password"] }), { status: 400 })
  const { username, password } = submission.value
  const device = await deviceToken(request)
  const tried = { username, address: frame.address, device }
  const wait = await countSignIn(frame.db, tried)
  if (wait !== null)
    return data(
      submission.reply({ hideFields: ["password"], formErrors: [say("sign-in.too-many", { seconds: wait })] }),
      { status: 429 },
    )
  const signed = await signIn(frame.db, username, password, device)
  if (!signed)
    return data(submission.reply({ hideFields: ["password"], formErrors: [say("sign-in.wrong")] }), { status: 401 })
  await forgetSignIns(frame.db, tried)
  const headers = new Headers()
  headers.append("set-cookie", await sessionCookie(signed.token, signed.seconds, frame.secure))
  headers.append("set-cookie", await deviceCookie(signed.device, frame.secure))
  // a new page: it is told in the language of whoever signed in
  throw redirectDocument(ownPath(new URL(request.url).searchParams.get("to")), { headers })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("sign-in.title")} · ${say("app.name")}` }]

export default function SignIn({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== "idle"
  useEffect(forgetScans, [])
  const [fields, { username, password }] = useForm({
    lastResult: actionData,
    constraint: undefined,
    shouldValidate: "onSubmit",
  })
  return (
    <main className="sign-in">
      <section className="night-half">
        <h1>{say("app.name")}</h1>
        <p>{say("sign-in.about")}</p>
      </section>
      <section className="form-half">
        <Form method="post" {...getFormProps(fields)} noValidate>
          <h2>{say("sign-in.title")}</h2>
          <p className="form-error" role="alert">
            {fields.errors?.join(" ") ?? ""}
          </p>
          <Field.Root invalid={!!username?.errors} ids={{ errorText: username?.errorId }}>
            <Field.Label>{say("sign-in.username")}</Field.Label>
            <Input
              name="username"
              defaultValue={String(username?.initialValue ?? "")}
              autoComplete="username"
              autoFocus
            />
            <Field.ErrorText>{username?.errors?.map((key) => sayCode(String(key)))}</Field.ErrorText>
          </Field.Root>
          <Field.Root invalid={!!password?.errors} ids={{ errorText: password?.errorId }}>
            <Field.Label>{say("sign-in.password")}</Field.Label>
            <Input name="password" type="password" autoComplete="current-password" />
            <Field.ErrorText>{password?.errors?.map((key) => sayCode(String(key)))}</Field.ErrorText>
          </Field.Root>
          <Button type="submit" variant="solid" disabled={busy}>
            {say("sign-in.submit")}
          </Button>
        </Form>
        {loaderData.accounts.length > 0 ? (
          <div className="demo-accounts">
            <h2>{say("sign-in.demo")}</h2>
            {loaderData.accounts.map((account) => (
              <Form key={account.username} method="post">
                <input type="hidden" name="username" value={account.username} />
                <input type="hidden" name="password" value={account.password} />
                <Button type="submit">
                  {say("sign-in.demo-as", { name: account.name, role: wordFor("role", account.role) })}
                </Button>
              </Form>
            ))}
            <p>{say("sign-in.demo-note", { password: loaderData.accounts[0]?.password ?? "" })}</p>
          </div>
        ) : null}
      </section>
    </main>
  )
}
