export const loader = () => null
