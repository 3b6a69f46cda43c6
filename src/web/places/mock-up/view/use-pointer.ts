import { type DragEvent, type PointerEvent, useRef, useState, type WheelEvent } from 'react'
import type { Vec3 } from '#core/math/vec3'
import { goAside, goCloser, goRound, holdAt, type Lens, rayThrough, seeThrough } from '#core/mock-up/composing/look-through'
import { castOntoLevel, type Ray } from '#core/mock-up/placing/cast-into'
import { around, type Box, type Snap, snapMove } from '#core/mock-up/placing/snapping'
import { isLocked, move } from '#core/mock-up/scene/pieces'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpSession } from '../state/mock-up-session'
import type { Staged, Target } from '../state/use-staged'

/** The pointer moves so far, in CSS pixels, before a press is a drag. */
const SLOP = 4
/** Across the whole width it is once half round. */
const TURN_RAD = Math.PI

export interface Touch {
  target: Target | null
  part: string
  point: Vec3 | null
  withShift: boolean
}

/** What a drag of pieces does at the moment, to be told and drawn. */
export interface Moving {
  by: Vec3
  held: readonly Snap[]
  box: Box
}

interface Props {
  scene: Scene
  staged: Staged
  lens: Lens
  chosen: readonly string[]
  snaps: { isOn: boolean; gridM: number | null }
  session: MockUpSession
  setLens: (lens: Lens) => void
  /** A press that was no drag. */
  onTouch: (touch: Touch) => void
  /** While something is drawn, a press sets one of its corners, held to those of the face that it lies on; with the part of the stage that it lies on. */
  onCorner: ((point: Vec3, part: string | null) => void) | null
}

type Drag =
  | { kind: 'pressed'; ray: Ray; hit: ReturnType<Staged['cast']> }
  | { kind: 'round' | 'aside'; from: Lens }
  | { kind: 'pieces'; ids: readonly string[]; level: number; start: Vec3; from: Scene; gesture: string; box: Box; others: Box[] }

const isAside = (event: PointerEvent): boolean => event.button === 1 || event.button === 2 || event.shiftKey

/** Looking round, choosing and moving by the pointer: on a chosen piece a drag moves what is chosen, anywhere else it goes round. */
export function usePointer({ scene, staged, lens, chosen, snaps, session, setLens, onTouch, onCorner }: Props) {
  const drag = useRef<{ x: number; y: number; is: Drag; from: Lens; isAside: boolean } | null>(null)
  const [moving, setMoving] = useState<Moving | null>(null)
  const serial = useRef(0)
  const placeIn = (event: { clientX: number; clientY: number; currentTarget: EventTarget & Element }) => {
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect()
    return { x: ((event.clientX - left) / width) * 2 - 1, y: 1 - ((event.clientY - top) / height) * 2, width, height }
  }
  const rayAt = (event: Parameters<typeof placeIn>[0]): Ray => {
    const { x, y } = placeIn(event)
    return rayThrough(lens, x, y)
  }

  const begin = (ids: readonly string[], start: Vec3): Drag => {
    const boxes = ids.flatMap(id => staged.boxes.get(id) ?? [])
    const box = around(boxes)
    const others = [...[...staged.boxes].filter(([id]) => !ids.includes(id)).map(([, b]) => b), ...staged.walls]
    return { kind: 'pieces', ids, level: start[1], start, from: scene, gesture: `move ${++serial.current}`, box, others }
  }

  const moveOn = (held: Extract<Drag, { kind: 'pieces' }>, event: PointerEvent) => {
    const at = castOntoLevel(rayAt(event), held.level)
    if (!at) return
    const wished: Vec3 = [at[0] - held.start[0], 0, at[2] - held.start[2]]
    const box = shift(held.box, wished)
    const { height } = placeIn(event)
    const middle = box.min.map((v, k) => (v + box.max[k]) / 2) as Vec3
    const seen = seeThrough(lens, middle)
    const pxPerM = seen ? (height * lens.focalMm) / 24 / seen.depth : 100
    const near = held.others.filter(b => distanceOf(b, box) < 4)
    const { by: on, held: snapped } =
      snaps.isOn && !event.altKey ? snapMove(box, near, { gridM: snaps.gridM, pxPerM }) : { by: [0, 0, 0] as Vec3, held: [] }
    const by: Vec3 = [wished[0] + on[0], 0, wished[2] + on[2]]
    session.act(move(held.from, held.ids, by), held.gesture)
    setMoving({ by, held: snapped, box: shift(held.box, by) })
  }

  const onPointerDown = (event: PointerEvent) => {
    if (event.target instanceof Element && event.target.closest('[data-over-view]')) return
    const ray = rayAt(event)
    drag.current = {
      x: event.clientX,
      y: event.clientY,
      from: lens,
      isAside: isAside(event),
      is: { kind: 'pressed', ray, hit: staged.cast(ray) },
    }
  }
  const onPointerMove = (event: PointerEvent) => {
    const held = drag.current
    // Let go of outside, before it was a drag.
    if (held && event.buttons === 0) drag.current = null
    if (!held || event.buttons === 0) return
    const [dx, dy] = [event.clientX - held.x, event.clientY - held.y]
    if (held.is.kind === 'pressed') {
      if (Math.hypot(dx, dy) < SLOP) return
      event.currentTarget.setPointerCapture(event.pointerId)
      const { hit } = held.is
      const id = hit?.of.kind === 'piece' ? hit.of.id : null
      const isHeld = id !== null && chosen.includes(id) && !held.isAside && !onCorner
      held.is =
        isHeld && hit && !isLocked(scene, scene.pieces[id])
          ? begin(chosen, hit.point)
          : { kind: held.isAside ? 'aside' : 'round', from: held.from }
    }
    const { width, height } = event.currentTarget.getBoundingClientRect()
    if (held.is.kind === 'pieces') moveOn(held.is, event)
    else if (held.is.kind === 'aside') setLens(goAside(held.is.from, -dx / height, dy / height))
    else if (held.is.kind === 'round') setLens(goRound(held.is.from, -(dx / width) * TURN_RAD, (dy / width) * TURN_RAD))
  }
  const onPointerUp = (event: PointerEvent) => {
    const held = drag.current
    drag.current = null
    setMoving(null)
    if (held?.is.kind !== 'pressed' || event.button !== 0) return
    const { hit, ray } = held.is
    if (onCorner) {
      const { height } = placeIn(event)
      const isHeld = snaps.isOn && !event.altKey
      const at = hit ? (isHeld ? holdAt(lens, hit.point, hit.corners, height) : hit.point) : castOntoLevel(ray, 0)
      if (at) onCorner(at, hit?.of.kind === 'stage' ? hit.part : null)
      return
    }
    onTouch({ target: hit?.of ?? null, part: hit?.part ?? '', point: hit?.point ?? null, withShift: event.shiftKey })
  }
  return {
    moving,
    rayAt,
    /** What lies under something that is dragged over the view. */
    castAt: (event: DragEvent) => staged.cast(rayAt(event)),
    handlers: {
      onPointerDown,
      onPointerMove,
      onPointerUp,
      onPointerCancel: () => {
        drag.current = null
        setMoving(null)
      },
      onContextMenu: (event: { preventDefault: () => void }) => event.preventDefault(),
      onWheel: (event: WheelEvent) => setLens(goCloser(lens, Math.exp(event.deltaY * 0.0012))),
    },
  }
}

const shift = ({ min, max }: Box, [x, y, z]: Vec3): Box => ({
  min: [min[0] + x, min[1] + y, min[2] + z],
  max: [max[0] + x, max[1] + y, max[2] + z],
})

/** Between two boxes on the ground; 0 where they overlap there. */
export function distanceOf(a: Box, b: Box): number {
  const gap = (k: 0 | 2) => Math.max(0, a.min[k] - b.max[k], b.min[k] - a.max[k])
  return Math.hypot(gap(0), gap(2))
}
