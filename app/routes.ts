import { index, layout, type RouteConfig, route } from "@react-router/dev/routes"

export default [
  route("sign-in", "routes/sign-in.tsx"),
  route("sign-out", "routes/sign-out.ts"),
  layout("routes/shell.tsx", { id: "shell" }, [
    index("routes/day.tsx"),
    route("scan", "routes/scan.ts"),
    route("live", "routes/live.ts"),
    route("warehouse", "routes/warehouse.ts"),
    route("orders", "routes/orders.tsx"),
    route("orders/intake", "routes/intake.tsx"),
    route("orders/intake/:id", "routes/intake-file.tsx"),
    route("orders/:bench", "routes/order.tsx"),
    route("pick/:bench", "routes/pick.tsx"),
    route("shipment/:bench?", "routes/shipment.tsx"),
    route("dock/:collection?", "routes/dock.tsx"),
    route("papers", "routes/papers.tsx"),
    route("papers/:id.pdf", "routes/document.ts"),
    route("set-up", "routes/set-up.tsx"),
    route("set-up/items", "routes/items.tsx"),
    route("set-up/users", "routes/users.tsx"),
    route("set-up/api", "routes/api.tsx"),
    route("set-up/changes", "routes/changes.tsx"),
  ]),
] satisfies RouteConfig
