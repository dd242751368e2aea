import { redirect } from "react-router"

export const loader = () => redirect("/set-up/items")
