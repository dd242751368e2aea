/** `account,account:password`, as the start command of the demo gives it. */
export function demoOf(text: string | undefined) {
  const [accounts = "", password = ""] = (text ?? "").split(":")
  return password ? { accounts: accounts.split(","), password } : null
}
