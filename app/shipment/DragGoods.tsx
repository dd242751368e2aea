import {
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core"
import type { ReactNode } from "react"
import { useSubmit } from "react-router"
import { say } from "words/index.ts"

/** What is dragged: pieces of a line that are in no package, or in one. */
interface Dragged {
  readonly line: number
  readonly quantity: number
  readonly from: number | null
}

/**
 * Pieces dragged by mouse, finger or keys (Space takes and lets go, arrows move) from the lines, or from one package,
 * into another. Dropped beside a package nothing changes. Everything can be done by buttons too.
 */
export function DragGoods({ children }: { children: ReactNode }) {
  const submit = useSubmit()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor),
  )
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const goods = active.data.current as Dragged | undefined
    const to = over?.data.current as { readonly package: number } | undefined
    if (!goods || !to || goods.from === to.package) return
    const line = { line: String(goods.line), quantity: String(goods.quantity), key: crypto.randomUUID() }
    void submit(
      goods.from === null
        ? { intent: "put", package: String(to.package), scanId: line.key, ...line }
        : { intent: "move", package: String(goods.from), to: String(to.package), ...line },
      { method: "post" },
    )
  }
  return (
    <DndContext id="goods" sensors={sensors} onDragEnd={onDragEnd}>
      {children}
    </DndContext>
  )
}

function useGrip(id: string, goods: Dragged) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({ id, data: goods })
  return {
    ref: setNodeRef,
    ...attributes,
    ...listeners,
    className: isDragging ? "grip dragged" : "grip",
    style: transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined,
  }
}

/** A line that can be dragged into a package: all of it that is in none. */
export function LineGrip({
  line,
  letter,
  quantity,
  children,
}: {
  line: number
  letter: string
  quantity: number
  children: ReactNode
}) {
  const grip = useGrip(`line-${line}`, { line, quantity, from: null })
  return (
    <span {...grip} title={say("packing.drag", { line: letter })}>
      {children}
    </span>
  )
}

/** Pieces of a line in a package, to be dragged into another. */
export function ContentGrip({
  package: from,
  line,
  letter,
  quantity,
}: {
  package: number
  line: number
  letter: string
  quantity: number
}) {
  const grip = useGrip(`content-${from}-${line}`, { line, quantity, from })
  return (
    <span {...grip} title={say("packing.drag", { line: letter })}>
      {quantity}
      {letter}
    </span>
  )
}

/** A package that takes what is dropped on it. */
export function PackageDrop({
  number,
  open,
  className,
  children,
}: {
  number: number
  open: boolean
  className: string
  children: ReactNode
}) {
  const { setNodeRef, isOver } = useDroppable({ id: `package-${number}`, data: { package: number }, disabled: !open })
  return (
    <article ref={setNodeRef} className={isOver ? `${className} over` : className}>
      {children}
    </article>
  )
}
