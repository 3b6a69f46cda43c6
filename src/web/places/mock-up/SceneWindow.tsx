import { lazy, type RefObject, Suspense, useMemo, useRef, useState } from 'react'
import { listReached } from '#core/mock-up/materials/wearing'
import type { Scene, Spot } from '#core/mock-up/scene/scene'
import { isCarrying, readCarried } from '../wall/carried-items'
import { sayReach } from './cards/GoesTo'
import type { MockUpSession } from './state/mock-up-session'
import type { Assigning } from './state/use-assigning'
import type { useDrawing } from './state/use-drawing'
import type { LiveResources } from './state/use-resources'
import type { Selection } from './state/use-selection'
import type { useShots } from './state/use-shots'
import type { Staged } from './state/use-staged'
import type { TracedView } from './state/use-traced-view'
import type { ViewChoices } from './state/use-view-choices'
import type { Landing } from './use-bring-in'
import { LightMarks } from './view/LightMarks'
import { Marks } from './view/Marks'
import { drawnLinesOf, outlinesOf } from './view/marks-of'
import { ShadowHandle } from './view/ShadowHandle'
import { ShotFrame } from './view/ShotFrame'
import { StatusLine, sayMoving } from './view/StatusLine'
import { TracedLayer } from './view/TracedLayer'
import type { usePointer } from './view/use-pointer'

const MockUpView = lazy(() => import('../../viewer/mock-up/MockUpView'))

interface Props {
  scene: Scene
  session: MockUpSession
  frame: RefObject<HTMLDivElement | null>
  size: { width: number; height: number }
  shown: ReturnType<typeof useShots>
  staged: Staged
  webs: LiveResources['webs']
  selection: Selection
  assigning: Assigning
  pen: ReturnType<typeof useDrawing>
  pointer: ReturnType<typeof usePointer>
  traced: TracedView
  choices: ViewChoices
  /** Of the sky in use, as its picture has it. */
  sun: { azimuthDeg: number; elevationDeg: number } | null
  showsLights: boolean
  /** Items that are not opened yet. */
  opening: number
  /** Pieces that are not shown. */
  missing: number
  onGesture: (isGesturing: boolean) => void
  onBring: (ids: readonly number[], landing: Landing) => void
}

/** The picture, live and traced, with all that is drawn over it and done in it. */
export function SceneWindow(props: Props) {
  const { scene, session, frame, size, shown, staged, webs, selection, assigning, pen, pointer, choices, sun, opening } = props
  const { shot, seen, sky, skyId, ev } = shown
  const { drawing } = pen
  const { chosen, ids } = selection
  /** What is dragged from the shelf is over this part. */
  const [over, setOver] = useState<{ spot: Spot; at: { x: number; y: number } } | null>(null)
  /** Each drag of a shadow or a light is taken back as one. */
  const drags = useRef(0)
  const lights = useMemo(() => ({ lights: scene.lights, groups: scene.groups, webs, ev }), [scene.lights, scene.groups, webs, ev])
  const { spot } = selection
  const reached = useMemo(
    () => (spot ? listReached(scene, spot, assigning.reach, staged.book) : []),
    [scene, spot, assigning.reach, staged.book],
  )
  const boxes = ids.flatMap(id => staged.boxes.get(id) ?? [])
  return (
    <>
      <div
        ref={frame}
        role="application"
        data-opening={opening}
        aria-label="The scene. Drag to look round, arrows walk, a click chooses"
        className={`absolute inset-x-0 top-0 bottom-11 touch-none overflow-hidden bg-mount ${drawing === null && !assigning.isCarrying ? '' : 'cursor-crosshair'}`}
        {...pointer.handlers}
        onPointerDownCapture={() => props.onGesture(true)}
        onPointerUpCapture={() => props.onGesture(false)}
        onPointerCancelCapture={() => props.onGesture(false)}
        onDoubleClick={() => drawing !== null && drawing.kind !== 'distance' && pen.finish()}
        onDragOver={event => {
          if (!isCarrying(event)) return
          event.preventDefault()
          const spot = spotOf(pointer.castAt(event))
          setOver(spot && { spot, at: { x: event.clientX, y: event.clientY } })
        }}
        onDragLeave={() => setOver(null)}
        onDrop={event => {
          event.preventDefault()
          setOver(null)
          const hit = pointer.castAt(event)
          props.onBring(readCarried(event), { face: hit, spot: spotOf(hit) })
        }}
      >
        <Suspense fallback={null}>
          <MockUpView
            stage={staged.stage}
            placed={staged.placed}
            standing={staged.standing}
            light={shown.light}
            lens={seen}
            lights={lights}
            drawsShadows={choices.drawsShadows}
            isWhole={opening === 0}
          />
        </Suspense>
        <TracedLayer traced={props.traced} isOn={choices.tracesAtRest} />
        <Marks
          lens={seen}
          size={size}
          outlines={outlinesOf(scene, staged, selection, reached, over?.spot ?? null)}
          lines={drawnLinesOf(scene, chosen, drawing)}
        />
        {shot && !shown.isAway && <ShotFrame aspect={shot.aspect} window={size.width / size.height} />}
        {boxes.length === 1 && sky && skyId !== null && sun && (
          <ShadowHandle
            box={boxes[0]}
            sun={sun}
            turnDeg={sky.turnDeg}
            lens={seen}
            rayAt={pointer.rayAt}
            frame={frame}
            onTurn={(turnDeg, isLast) => {
              session.act({ skies: { [skyId]: { ...sky, turnDeg } } }, `shadow ${drags.current}`)
              if (isLast) drags.current++
            }}
          />
        )}
        {(chosen?.kind === 'light' || props.showsLights) && (
          <LightMarks
            scene={scene}
            chosen={chosen?.kind === 'light' ? chosen.id : null}
            lens={seen}
            frame={frame}
            size={size}
            rayAt={pointer.rayAt}
            onChoose={id => selection.choose({ kind: 'light', id })}
            onMove={(id, position, isLast) => {
              session.act({ lights: { [id]: { ...scene.lights[id], position } } }, `light ${drags.current}`)
              if (isLast) drags.current++
            }}
          />
        )}
        <StatusLine
          opening={opening}
          missing={props.missing}
          moving={pointer.moving ? sayMoving(pointer.moving, staged.boxes, ids, scene.pieces, staged.walls) : null}
          drawing={drawing}
          onFinish={pen.finish}
        />
      </div>
      {over && (
        <span
          aria-hidden
          className="pointer-events-none fixed z-50 translate-x-4 translate-y-4 rounded-sm bg-ink px-2 py-1 text-xs text-mount"
          style={{ left: over.at.x, top: over.at.y }}
        >
          {over.spot.part} · {sayReach(scene, over.spot, assigning.reach)}
        </span>
      )}
    </>
  )
}

/** The part that a material would go to. */
const spotOf = (hit: ReturnType<Staged['cast']>): Spot | null =>
  hit?.of.kind === 'piece'
    ? { piece: hit.of.id, part: hit.part }
    : hit?.of.kind === 'stage'
      ? { piece: null, part: hit.part }
      : null
