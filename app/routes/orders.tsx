export const loader = () => null
export default function Stub() {
  return null
}
