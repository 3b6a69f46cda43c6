import { type PointerEvent, type RefObject, useRef } from 'react'
import type { Vec3 } from '#core/math/vec3'
import { type Lens, seeThrough } from '#core/mock-up/composing/look-through'
import { castOntoLevel, type Ray } from '#core/mock-up/placing/cast-into'
import type { Light, Scene } from '#core/mock-up/scene/scene'

interface Props {
  scene: Scene
  chosen: string | null
  lens: Lens
  frame: RefObject<HTMLElement | null>
  size: { width: number; height: number }
  rayAt: (event: { clientX: number; clientY: number; currentTarget: EventTarget & Element }) => Ray
  onChoose: (id: string) => void
  /** @param isLast when it is let go of */
  onMove: (id: string, position: Light['position'], isLast: boolean) => void
}

/** The lights of the scene, to be taken hold of: most are too small to be hit. Dragged, one stays at its height. */
export function LightMarks({ scene, chosen, lens, frame, size, rayAt, onChoose, onMove }: Props) {
  const drag = useRef<{ id: string; start: Vec3; from: Vec3 } | null>(null)
  const levelAt = (event: PointerEvent, level: number): Vec3 | null =>
    frame.current && castOntoLevel(rayAt({ clientX: event.clientX, clientY: event.clientY, currentTarget: frame.current }), level)
  const follow = (event: PointerEvent, isLast: boolean) => {
    const held = drag.current
    const at = held && levelAt(event, held.start[1])
    if (!held || !at) return
    const to = (k: 0 | 2) => Math.max(-1000, Math.min(1000, held.start[k] + at[k] - held.from[k]))
    onMove(held.id, [to(0), held.start[1], to(2)], isLast)
  }
  return (
    <>
      {Object.entries(scene.lights).map(([id, light]) => {
        const seen = seeThrough(lens, light.position)
        if (!seen || Math.abs(seen.x) > 1 || Math.abs(seen.y) > 1) return null
        return (
          <button
            key={id}
            type="button"
            data-over-view
            aria-label={`The light ${light.name}`}
            aria-pressed={id === chosen}
            title={light.name}
            onClick={() => onChoose(id)}
            onPointerDown={event => {
              const from = levelAt(event, light.position[1])
              if (event.button !== 0 || id !== chosen || !from) return
              event.currentTarget.setPointerCapture(event.pointerId)
              drag.current = { id, start: light.position, from }
            }}
            onPointerMove={event => event.buttons !== 0 && follow(event, false)}
            onPointerUp={event => {
              follow(event, true)
              drag.current = null
            }}
            className={`absolute size-5 -translate-x-1/2 -translate-y-1/2 touch-none rounded-full border-2 ${id === chosen ? 'border-ink bg-mount' : 'border-mount bg-ink/40'} ${light.isHidden ? 'opacity-50' : ''}`}
            style={{ left: (seen.x * 0.5 + 0.5) * size.width, top: (0.5 - seen.y * 0.5) * size.height }}
          />
        )
      })}
    </>
  )
}
