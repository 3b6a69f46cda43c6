import { lazy, type ReactNode, Suspense, useEffect, useMemo, useRef, useState } from 'react'
import type { NO_ORBIT } from '#core/render/film/camera'
import { PREVIEW_ASPECT } from '#core/render/rigs/rig'
import type { Sheet } from '#shared/contracts/items.contract'
import { OPENED_SIDES, screenCopyOf } from '#shared/picture-widths'
import { formatNumber } from '#shared/units'
import { Button } from '../../components/controls/Button'
import { PreviewFrame } from '../../components/PreviewFrame'
import type { TracedSubject } from '../../workers/preview.worker'
import { AddressLayer, PictureLayer, PictureStage } from '../compare/PictureStage'
import { WHOLE } from '../compare/view-state'
import { shownWidthOf, useTracedPicture } from './traced/use-traced-picture'
import { loadTunableMaterial, type TunableMaterial } from './tune/load-material'
import { useOrbit } from './use-orbit'

const LiveView = lazy(() => import('../../viewer/LiveView'))

interface Props {
  sheet: Sheet
  /** How far the rendering of its picture has come. */
  share?: number
  /** What is said of the rig's picture; and what can be done with it. */
  about: string
  actions: ReactNode
}

/** So long nothing moves before the view is traced. */
const REST_MS = 180
const LARGEST_TRACED = 768

/**
 * The item's picture on its rig, which a drag turns: drawn at once while it moves, and path-traced from where one stopped. A double click
 * comes closer to the picture's own pixels.
 */
export function ItemView({ sheet, share, about, actions }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const [view, setView] = useState(WHOLE)
  const [isTurned, setTurned] = useState(false)
  const [isDrawn, setDrawn] = useState(false)
  const begin = () => setTurned(true)
  const { orbit, isMoving, handlers, onKey, come, reset } = useOrbit(begin)
  const mayTurn = sheet.kind !== 'light' && view.scale <= 1
  const isTraced = sheet.kind === 'material' || sheet.kind === 'model'
  const resting = useResting(isTurned && !isMoving, orbit)
  const { subject, material } = useTracedSubject(sheet, isTurned && isTraced)
  const look = resting && subject ? { material, orbit } : null
  const width = useMemo(() => (isTurned ? shownWidthOf(box.current, LARGEST_TRACED) : 0), [isTurned])
  const backdrop = sheet.preview?.backdropAlbedo ?? sheet.rig.backdrops[0]
  const traced = useTracedPicture(subject, look, sheet.rig, backdrop, width)
  const isShown = look !== null && traced.isOfThisLook && traced.image !== null
  const leave = () => {
    setTurned(false)
    setDrawn(false)
    reset()
  }
  useWheel(box, isTurned, come)
  const said = !isTurned
    ? about
    : !isTraced
      ? 'drawn live'
      : traced.hasFailed
        ? 'drawn live; a file did not arrive, so that this view cannot be traced'
        : isShown
          ? traced.error === null
            ? 'first look, traced here'
            : `traced here, error ${formatNumber(traced.error * 255, 1)} of 255, ${formatNumber(traced.seconds, 1)} s`
          : 'drawn live, traced when it rests'
  return (
    <>
      <div className="mb-2 flex min-h-8 items-center gap-3">
        <span className="figures min-w-0 text-2xs text-quiet">{said}</span>
        <span className="ml-auto flex shrink-0 items-center gap-3">
          {isTurned ? (
            <Button onClick={leave}>Back to its picture</Button>
          ) : (
            <>
              {actions}
              {mayTurn && (
                <Button
                  onClick={() => {
                    begin()
                    box.current?.focus()
                  }}
                >
                  Turn it
                </Button>
              )}
            </>
          )}
        </span>
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a frame onto a picture is no fieldset */}
      <div
        ref={box}
        role="group"
        aria-label={
          isTurned
            ? `${sheet.name} from any side. Arrow keys turn, plus and minus come closer, 0 goes back`
            : `Picture of ${sheet.name}`
        }
        tabIndex={isTurned ? 0 : -1}
        className="relative w-full overflow-hidden bg-mount select-none"
        style={{ aspectRatio: PREVIEW_ASPECT }}
        data-item-view={isTurned ? (isShown ? traced.state : 'live') : 'rig'}
        onPointerDownCapture={event => {
          if (!mayTurn) return
          handlers.onPointerDown(event)
          event.stopPropagation()
        }}
        onPointerMove={handlers.onPointerMove}
        onPointerUp={handlers.onPointerUp}
        onPointerCancel={handlers.onPointerCancel}
        onKeyDown={event => {
          if (!isTurned) return
          if (event.key === '0' || event.key === 'Home') {
            event.preventDefault()
            leave()
          } else onKey(event)
        }}
      >
        {isTurned && (
          <div className="absolute inset-0 cursor-grab touch-none active:cursor-grabbing" data-live-view>
            <Suspense fallback={null}>
              <LiveView sheet={sheet} orbit={orbit} onDrawn={() => setDrawn(true)} />
            </Suspense>
          </div>
        )}
        {isShown && traced.image && (
          <div className="pointer-events-none absolute inset-0">
            <PictureLayer image={traced.image} view={WHOLE} />
          </div>
        )}
        {!(isTurned && isDrawn) && (
          <div className={isTurned ? 'pointer-events-none absolute inset-0' : ''}>
            <RigPicture {...{ sheet, share, view }} onView={setView} />
          </div>
        )}
      </div>
    </>
  )
}

/** The rendered picture; a double click or a key comes closer to it. */
function RigPicture({
  sheet,
  share,
  view,
  onView,
}: Pick<Props, 'sheet' | 'share'> & { view: typeof WHOLE; onView: (view: typeof WHOLE) => void }) {
  const url = sheet.preview?.url
  if (!url) return <PreviewFrame url={null} alt="" share={share} />
  return (
    <PictureStage label={`Preview of ${sheet.name}`} view={view} onView={onView} spot={null} onSpot={() => {}} isOnPage>
      <AddressLayer url={url} alt={`Preview of ${sheet.name}`} view={view} />
    </PictureStage>
  )
}

/** Whether nothing has moved for a moment. */
function useResting(isStill: boolean, orbit: typeof NO_ORBIT): boolean {
  const [rested, setRested] = useState<typeof NO_ORBIT | null>(null)
  useEffect(() => {
    if (!isStill) return
    const timer = setTimeout(() => setRested(orbit), REST_MS)
    return () => clearTimeout(timer)
  }, [isStill, orbit])
  return isStill && rested === orbit
}

/** What the tracer is given, once it is wanted. */
function useTracedSubject(sheet: Sheet, isWanted: boolean) {
  const [loaded, setLoaded] = useState<TunableMaterial | null>(null)
  const { kind } = sheet
  const modelUrl = sheet.files.find(f => f.role === 'model')?.url
  // biome-ignore lint/correctness/useExhaustiveDependencies: another version is another view
  useEffect(() => {
    if (!isWanted || kind !== 'material') return
    let isOpen = true
    loadTunableMaterial(sheet).then(
      material => isOpen && setLoaded(material),
      () => {},
    )
    return () => {
      isOpen = false
    }
  }, [isWanted, kind, sheet.version.id])
  const subject = useMemo((): TracedSubject | null => {
    if (!isWanted) return null
    if (kind === 'material')
      return loaded && { kind: 'material', images: loaded.images, heights: loaded.heights, material: loaded.build({}) }
    return modelUrl ? { kind: 'model', url: screenCopyOf(modelUrl, OPENED_SIDES.model[0]) } : null
  }, [isWanted, kind, loaded, modelUrl])
  const material = useMemo(() => loaded?.build(sheet.constants) ?? null, [loaded, sheet.constants])
  return { subject, material }
}

/** The wheel comes closer while it is turned; else the page scrolls. */
function useWheel(box: { current: HTMLElement | null }, isOn: boolean, come: (factor: number) => void): void {
  const latest = useRef(come)
  latest.current = come
  useEffect(() => {
    const element = box.current
    if (!element || !isOn) return
    const onWheel = (event: WheelEvent) => {
      event.preventDefault()
      latest.current(Math.exp(event.deltaY * 0.0012))
    }
    // React's own wheel listener may not keep the page from scrolling.
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [box, isOn])
}
