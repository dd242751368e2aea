/** Somebody is there; what notes it is the way in (`requireActor`). */
export const action = () => new Response(null, { status: 204 })

export const loader = () => new Response(null, { status: 204 })
