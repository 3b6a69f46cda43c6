import { lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import { toast } from 'sonner'
import { z } from 'zod'
import type { Vec3 } from '#core/math/vec3'
import { wornAt } from '#core/mock-up/dress'
import { sunOfSky } from '#core/mock-up/light/sky-map'
import { frameBox, rayThrough, walk } from '#core/mock-up/look-through'
import { duplicate, isLocked, lock, move, remove, show, turn } from '#core/mock-up/pieces'
import { findMisplaced, placeOfPiece } from '#core/mock-up/placing'
import { boundsOf } from '#core/mock-up/resources'
import type { Assignment, Spot } from '#core/mock-up/scene'
import { around, type Box } from '#core/mock-up/snapping'
import { choiceAt, sceneOfShot, showVariant } from '#core/mock-up/variants'
import { assignTo, listReached, type Reach } from '#core/mock-up/wearing'
import type { MockUp, OrderPictures } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../components/bulk-words'
import { useListMockUpPicturesQuery, useOrderMockUpPicturesMutation } from '../../state/api'
import { readRemembered, remember } from '../../state/remembered'
import { drawsOnProcessor } from '../../viewer/on-processor'
import { isCarrying, readCarried } from '../wall/carried-items'
import { ChosenCard } from './cards/ChosenCard'
import { sayReach } from './cards/GoesTo'
import { listOutdated, NewerDialog } from './NewerDialog'
import { Shelf } from './Shelf'
import { OrderDialog } from './shots/OrderDialog'
import { PicturesPanel } from './shots/PicturesPanel'
import { StageDialog } from './stage/StageDialog'
import { StageMaterials } from './stage/StageMaterials'
import { useStandIn } from './stage/use-stand-in'
import { type Chosen, chosenPieces, stillThere } from './state/chosen'
import { newId } from './state/new-id'
import { linesOf, useDrawing } from './state/use-drawing'
import { useFindItems } from './state/use-find-items'
import { useKnownItems } from './state/use-known-items'
import { useMockUp } from './state/use-mock-up'
import { useOpenLibraries } from './state/use-open-libraries'
import { usePlants } from './state/use-plants'
import { countUnopened, useResources } from './state/use-resources'
import { useShots } from './state/use-shots'
import { type Staged, useSkyGround, useStaged } from './state/use-staged'
import { useTracedView } from './state/use-traced-view'
import { ThingsPanel } from './ThingsPanel'
import { TopLine } from './TopLine'
import { useBringIn } from './use-bring-in'
import { Beside } from './view/Beside'
import { LightMarks } from './view/LightMarks'
import { Marks } from './view/Marks'
import { ShadowHandle, shadowOf } from './view/ShadowHandle'
import { ShotFrame } from './view/ShotFrame'
import { StatusLine, sayMoving } from './view/StatusLine'
import { TracedLayer } from './view/TracedLayer'
import { useMockUpKeys } from './view/use-mock-up-keys'
import { distanceOf, type Touch, usePointer } from './view/use-pointer'
import { useSize } from './view/use-size'

const MockUpView = lazy(() => import('../../viewer/mock-up/MockUpView'))

/** The traced picture is so wide at most: more takes two cores too long to be of use while one works. */
const TRACED_PX = 960

/** A mock-up being worked on: the picture, the shelf along its lower edge, the shots and the light above it, and beside what is chosen what concerns it. */
export function MockUpDesk({ mockUp }: { mockUp: MockUp }) {
  const { view, session } = useMockUp(mockUp)
  const { scene } = view
  const { items, addItems } = useKnownItems(mockUp, scene)
  const resources = useResources(scene, items)
  const plants = usePlants(scene, resources)
  const { data: pictures = [] } = useListMockUpPicturesQuery({ id: mockUp.id })
  const [order] = useOrderMockUpPicturesMutation()

  const [chosenRaw, setChosen] = useState<Chosen>(null)
  const chosen = stillThere(chosenRaw, scene)
  const ids = chosenPieces(chosen)
  const [reach, setReach] = useState<Reach>('part')
  const [addsVariant, setAddsVariant] = useState(false)
  /** Taken up from a part: a click puts it on another. */
  const [carried, setCarried] = useState<Assignment | null>(null)
  const [snaps, setSnaps] = useState<{ isOn: boolean; gridM: number | null }>({ isOn: true, gridM: null })
  const [activeGroup, setActiveGroup] = useState<string | null>(null)
  const [isShelfOpen, setShelfOpen] = useState(() => Object.keys(scene.pieces).length === 0)
  const [side, setSide] = useState<'things' | 'pictures' | null>(null)
  /** Begun to stand in a model of one's own, which is still to be chosen. */
  const beginsWithModel = (useLocation().state as { stage?: string } | null)?.stage === 'model' && scene.stage.kind === 'empty'
  const [isStageOpen, setStageOpen] = useState(beginsWithModel)
  const [isMaterialsOpen, setMaterialsOpen] = useState(false)
  const [isOrderOpen, setOrderOpen] = useState(false)
  const [isNewerOpen, setNewerOpen] = useState(false)
  const outdated = useMemo(() => listOutdated(scene, items), [scene, items])
  const [tracesAtRest, setTraces] = useState(() => readRemembered('mock-up traces', z.boolean(), true))
  const [drawsShadows, setShadows] = useState(() => readRemembered('mock-up shadows', z.boolean(), !drawsOnProcessor()))
  const [used, setUsed] = useState<readonly number[]>([])
  const [overSpot, setOverSpot] = useState<{ spot: Spot; at: { x: number; y: number } } | null>(null)
  const frame = useRef<HTMLDivElement>(null)
  /** Each drag of a shadow or a light is taken back as one. */
  const drags = useRef(0)
  const size = useSize(frame)

  const pen = useDrawing({
    ...{ scene, session, items, ids, activeGroup },
    onPlanted: id => setChosen({ kind: 'planting', id, plant: null }),
  })
  const { drawing } = pen
  const shown = useShots(scene, session, resources.skies, size)
  const { shots, shot, lens, seen, viewShot, sky, skyId } = shown
  const ground = useSkyGround(scene, skyId, resources)
  const staged = useStaged(shot ? sceneOfShot(scene, shot) : scene, resources, plants, ground)
  const opening = useMemo(() => countUnopened(scene, resources), [scene, resources])
  const isReady = opening === 0
  const [isGesturing, setGesturing] = useState(false)
  const traced = useTracedView(
    scene,
    viewShot,
    items,
    Math.min(TRACED_PX, size.width),
    tracesAtRest && isReady && size.width > 1 && !isGesturing && drawing === null,
  )

  const lights = useMemo(
    () => ({ lights: scene.lights, groups: scene.groups, webs: resources.webs, ev: shown.ev }),
    [scene.lights, scene.groups, resources.webs, shown.ev],
  )

  // A model of one's own may stand anywhere, and be of any size: it is looked at once it is there.
  const stageKey = scene.stage.kind === 'model' ? scene.stage.model.key : null
  const framed = useRef(shots.length > 0 ? stageKey : null)
  useEffect(() => {
    if (!staged.stageBox || framed.current === stageKey) return
    framed.current = stageKey
    shown.look(frameBox(seen, staged.stageBox))
  })

  const freePoint = (): Vec3 => {
    const box = ids.length > 0 ? around(ids.flatMap(id => staged.boxes.get(id) ?? [])) : null
    if (box && Number.isFinite(box.min[0])) return [box.max[0] + 0.6, box.min[1], (box.min[2] + box.max[2]) / 2]
    const hit = staged.cast(rayThrough(seen, 0, -0.25))
    return hit?.of.kind === 'stage' && hit.normal[1] > 0.7 ? hit.point : [0, 0, 0]
  }
  const chosenSpot: Spot | null =
    chosen?.kind === 'stage'
      ? { piece: null, part: chosen.part }
      : chosen?.kind === 'pieces' && chosen.ids.length === 1 && chosen.part !== null
        ? { piece: chosen.ids[0], part: chosen.part }
        : null
  const library = useOpenLibraries(mockUp)
  const find = useFindItems(addItems)
  const { bring, hang } = useBringIn({
    scene,
    session,
    book: staged.book,
    reach,
    activeGroup,
    chosenSpot,
    items,
    find,
    onPlaced: placed => setChosen({ kind: 'pieces', ids: placed, part: null }),
    onSky: shown.setSky,
    onLight: id => setChosen({ kind: 'light', id }),
    freePoint,
    addsVariant,
  })
  const standIn = useStandIn({
    ...{ scene, session, chosen, activeGroup, find },
    models: resources.models,
    ownBoxes: staged.ownBoxes,
    onPlaced: placed => setChosen({ kind: 'pieces', ids: placed, part: null }),
  })
  const bringIn: typeof bring = async (list, landing) => {
    setUsed(before => [...list, ...before.filter(id => !list.includes(id))])
    if (await standIn.take(list)) return
    // A plant chosen while a planting is, joins it.
    const planting = chosen?.kind === 'planting' ? scene.plantings[chosen.id] : undefined
    if (planting && chosen?.kind === 'planting' && !landing?.face && (await joinPlanting(list, chosen.id))) return
    await bring(list, landing)
  }
  const joinPlanting = async (list: readonly number[], id: string): Promise<boolean> => {
    const found = (await find(list))?.filter(i => i.kind === 'model') ?? []
    const planting = scene.plantings[id]
    const fresh = found.filter(i => !planting.species.some(s => s.item.inputKey === i.ref.inputKey))
    if (fresh.length === 0) return false
    const species = fresh.map(i => ({ item: i.ref, name: i.name, share: 1, smallest: 0.8, largest: 1.2 }))
    session.act({ plantings: { [id]: { ...planting, species: [...planting.species, ...species] } } })
    return true
  }

  const pickUp = () => {
    const worn = chosenSpot && wornAt(scene, chosenSpot)
    if (!worn) {
      toast('Choose a part that wears a material first.')
      return
    }
    setCarried(worn)
    setChosen(null)
    toast(
      `${items.get(worn.material.inputKey)?.name ?? worn.material.code} is taken up: click the parts it goes to, Escape lays it down.`,
    )
  }
  const onTouch = ({ target, part, withShift }: Touch) => {
    if (carried && (target?.kind === 'piece' || target?.kind === 'stage')) {
      const spot: Spot = { piece: target.kind === 'piece' ? target.id : null, part }
      session.act(assignTo(scene, listReached(scene, spot, reach, staged.book), carried))
      return
    }
    if (!target) return setChosen(null)
    if (target.kind === 'stage') return setChosen(withShift ? chosen : { kind: 'stage', part })
    if (target.kind === 'light') return setChosen({ kind: 'light', id: target.id })
    if (target.kind === 'planting') return setChosen({ kind: 'planting', id: target.id, plant: target.plant })
    if (!withShift) return setChosen({ kind: 'pieces', ids: [target.id], part })
    const without = ids.filter(id => id !== target.id)
    setChosen({ kind: 'pieces', ids: without.length < ids.length ? without : [...ids, target.id], part: null })
  }
  const pointer = usePointer({
    scene,
    staged,
    lens: seen,
    chosen: ids,
    snaps,
    session,
    setLens: shown.look,
    onTouch,
    onCorner: drawing === null ? null : pen.add,
  })
  const render = async (wanted: OrderPictures) => {
    setOrderOpen(false)
    if (wanted.shots.length === 0) {
      toast('Take a shot first: a picture is made of one.')
      return
    }
    await session.flush()
    const result = await order({ id: mockUp.id, ...wanted })
    if (result.error) tellProblem(result.error)
    else setSide('pictures')
  }
  const copy = () => {
    const copies = new Map(ids.map(id => [id, newId()]))
    const box = around(ids.flatMap(id => staged.boxes.get(id) ?? []))
    session.act(
      duplicate(scene, ids, [Number.isFinite(box.min[0]) ? box.max[0] - box.min[0] + 0.05 : 0.5, 0, 0], id => copies.get(id)!),
    )
    setChosen({ kind: 'pieces', ids: [...copies.values()], part: null })
  }
  const middle = (): Vec3 => {
    const box = around(ids.flatMap(id => staged.boxes.get(id) ?? []))
    return Number.isFinite(box.min[0]) ? [(box.min[0] + box.max[0]) / 2, box.min[1], (box.min[2] + box.max[2]) / 2] : [0, 0, 0]
  }
  const checkPlaces = () => {
    const shown = new Map([...staged.boxes].filter(([id]) => !scene.pieces[id].isHidden))
    const wrong = findMisplaced(shown, scene.stage.kind === 'terrace' ? -0.06 : 0)
    if (wrong.length === 0) {
      toast('Nothing floats, sinks or overlaps.')
      return
    }
    setChosen({ kind: 'pieces', ids: [...new Set(wrong.map(w => w.id))], part: null })
    const [first] = wrong
    const name = scene.pieces[first.id].name
    const what = first.kind === 'overlaps' ? `reaches into ${scene.pieces[first.other!].name}` : first.kind
    toast(
      `${name} ${what} by ${Math.round(first.byM * 1000)} mm${wrong.length > 1 ? `; ${wrong.length - 1} more. All are chosen now.` : '.'}`,
    )
  }
  const chooseShadows = (isOn: boolean) => {
    setShadows(isOn)
    remember('mock-up shadows', isOn)
  }
  const setTracing = (isOn: boolean) => {
    setTraces(isOn)
    remember('mock-up traces', isOn)
  }
  useMockUpKeys(lens, ids.length > 0, {
    undo: () => session.undo(),
    redo: () => session.redo(),
    takeOut: () => {
      if (ids.length > 0) session.act(remove(scene, ids))
    },
    copy: () => ids.length > 0 && copy(),
    hide: () =>
      ids.length > 0 &&
      session.act(
        show(
          scene,
          ids,
          ids.every(id => scene.pieces[id].isHidden),
        ),
      ),
    lock: () => ids.length > 0 && session.act(lock(scene, ids, !ids.every(id => isLocked(scene, scene.pieces[id])))),
    frame: () => {
      const found = around((ids.length > 0 ? ids : Object.keys(scene.pieces)).flatMap(id => staged.boxes.get(id) ?? []))
      const box = Number.isFinite(found.min[0]) ? found : (staged.stageBox ?? found)
      if (Number.isFinite(box.min[0])) shown.look(frameBox(seen, box))
    },
    takeShot: shown.take,
    toShot: place => shots[place] && shown.toShot(shots[place][0]),
    pickUp: () => (carried ? setCarried(null) : pickUp()),
    letGo: () => (carried ? setCarried(null) : drawing ? pen.cancel() : chosen ? setChosen(null) : setSide(null)),
    moveBy: by => session.act(move(scene, ids, by), `keys ${ids.join()}`),
    turnBy: degrees => ids.length > 0 && session.act(turn(scene, ids, degrees, middle()), `turn ${ids.join()}`),
    walk: (forward, right) => shown.look(walk(lens, forward, right)),
    trace: () => setTracing(!tracesAtRest),
    things: () => setSide(side === 'things' ? null : 'things'),
    pictures: () => setSide(side === 'pictures' ? null : 'pictures'),
    measure: () => (drawing?.kind === 'distance' ? pen.cancel() : pen.begin('distance')),
    nextVariant: () => {
      const found = chosenSpot && choiceAt(scene, chosenSpot)
      if (found) session.act(showVariant(scene, found.id, found.choice.shown + 1))
    },
  })

  const boxesOfChosen = ids.flatMap(id => (staged.boxes.has(id) && scene.pieces[id] ? [{ id, box: staged.boxes.get(id)! }] : []))
  const outlines = ids.flatMap(id => {
    const own = staged.ownBoxes.get(scene.pieces[id].item.inputKey)
    return own ? [{ toWorld: placeOfPiece(scene.pieces[id]), box: own }] : []
  })
  const touched = chosen?.kind === 'stage' ? staged.stage.find(p => p.name === chosen.part) : undefined
  if (touched && scene.stage.kind === 'model') outlines.push({ toWorld: AS_IT_IS, box: boundsOf([touched]) })
  const overBox = overSpot?.spot.piece ? staged.boxes.get(overSpot.spot.piece) : undefined
  const planting = chosen?.kind === 'planting' ? scene.plantings[chosen.id] : null
  const lines = linesOf(
    drawing ?? {
      kind: planting?.along ? 'line' : 'area',
      points: planting?.outline.map(([x, z]): Vec3 => [x, planting.heightM, z]) ?? [],
      on: [],
    },
  )
  const missing = Object.values(scene.pieces).filter(
    p => resources.failed.has(p.item.inputKey) || items.get(p.item.inputKey)?.state === 'hidden',
  ).length
  const oneBox = boxesOfChosen.length === 1 ? boxesOfChosen[0].box : null
  const sun = sky ? sunOfSky(sky, (sky.item && items.get(sky.item.inputKey)?.sun) ?? null) : null
  // The card leaves the end of a short shadow free to be taken hold of.
  const shadow = oneBox && sky && sun ? shadowOf(oneBox, sun.azimuthDeg - sky.turnDeg, sun.elevationDeg)?.shadow : null
  const isShort = shadow && oneBox && distanceOf({ min: shadow, max: shadow }, oneBox) < SHORT_SHADOW_M
  const aroundChosen = [...boxesOfChosen.map(b => b.box), ...(isShort ? [{ min: shadow, max: shadow }] : [])]
  const chosenBox = aroundChosen.length > 0 ? around(aroundChosen) : null

  return (
    <div className="flex h-full flex-col">
      <TopLine
        mockUp={mockUp}
        view={view}
        session={session}
        items={items}
        pictures={pictures}
        shotId={shown.shotId}
        onShot={shown.toShot}
        onTake={shown.take}
        isAway={shown.isAway}
        onSetHere={shown.setHere}
        onBack={shown.goBack}
        onShotGone={shown.leaveShot}
        onShotFigures={shown.follow}
        sky={skyId}
        onSky={shown.setSky}
        snaps={snaps}
        onSnaps={setSnaps}
        side={side}
        onSide={setSide}
        onRender={quality => void render({ shots: shown.shotId === null ? [] : [shown.shotId], quality })}
        onOrder={() => setOrderOpen(true)}
        onStage={() => setStageOpen(true)}
        onDraw={pen.begin}
        onLight={kind => hang(LIGHT_NAMES[kind], { kind })}
        onCheck={checkPlaces}
        tracesAtRest={tracesAtRest}
        onTraces={setTracing}
        drawsShadows={drawsShadows}
        onShadows={chooseShadows}
        outdated={outdated.length}
        onNewer={() => setNewerOpen(true)}
      />
      <div className="relative min-h-0 flex-1">
        <div
          ref={frame}
          role="application"
          data-opening={opening}
          aria-label="The scene. Drag to look round, arrows walk, a click chooses"
          className={`absolute inset-x-0 top-0 bottom-11 touch-none overflow-hidden bg-mount ${drawing === null && carried === null ? '' : 'cursor-crosshair'}`}
          {...pointer.handlers}
          onPointerDownCapture={() => setGesturing(true)}
          onPointerUpCapture={() => setGesturing(false)}
          onPointerCancelCapture={() => setGesturing(false)}
          onDoubleClick={() => drawing !== null && drawing.kind !== 'distance' && pen.finish()}
          onDragOver={event => {
            if (!isCarrying(event)) return
            event.preventDefault()
            const hit = pointer.castAt(event)
            const spot = spotOf(hit)
            setOverSpot(spot ? { spot, at: { x: event.clientX, y: event.clientY } } : null)
          }}
          onDragLeave={() => setOverSpot(null)}
          onDrop={event => {
            event.preventDefault()
            setOverSpot(null)
            const hit = pointer.castAt(event)
            void bringIn(readCarried(event), {
              face: hit,
              spot: spotOf(hit),
            })
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
              drawsShadows={drawsShadows}
              isWhole={isReady}
            />
          </Suspense>
          <TracedLayer traced={traced} isOn={tracesAtRest} />
          <Marks
            lens={seen}
            size={size}
            outlines={overBox ? [...outlines, { toWorld: AS_IT_IS, box: overBox }] : outlines}
            lines={lines}
          />
          {shot && !shown.isAway && <ShotFrame aspect={shot.aspect} window={size.width / size.height} />}
          {oneBox && sky && skyId !== null && sun && (
            <ShadowHandle
              box={oneBox}
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
          {(chosen?.kind === 'light' || side === 'things') && (
            <LightMarks
              scene={scene}
              chosen={chosen?.kind === 'light' ? chosen.id : null}
              lens={seen}
              frame={frame}
              size={size}
              rayAt={pointer.rayAt}
              onChoose={id => setChosen({ kind: 'light', id })}
              onMove={(id, position, isLast) => {
                session.act({ lights: { [id]: { ...scene.lights[id], position } } }, `light ${drags.current}`)
                if (isLast) drags.current++
              }}
            />
          )}
          <StatusLine
            opening={opening}
            missing={missing}
            moving={pointer.moving ? sayMoving(pointer.moving, staged.boxes, ids, scene.pieces, staged.walls) : null}
            drawing={drawing}
            onFinish={pen.finish}
          />
        </div>
        {overSpot && (
          <span
            aria-hidden
            className="pointer-events-none fixed z-50 translate-x-4 translate-y-4 rounded-sm bg-ink px-2 py-1 text-xs text-mount"
            style={{ left: overSpot.at.x, top: overSpot.at.y }}
          >
            {overSpot.spot.part} · {sayReach(scene, overSpot.spot, reach)}
          </span>
        )}
        {chosen && !pointer.moving && drawing === null && (
          <Beside
            lens={seen}
            box={chosen.kind === 'pieces' ? chosenBox : chosen.kind === 'light' ? boxAt(scene.lights[chosen.id].position) : null}
            isShelfOpen={isShelfOpen}
            isSideOpen={side !== null}
            label="What is chosen"
          >
            <ChosenCard
              scene={scene}
              session={session}
              staged={staged}
              items={items}
              mockUpId={mockUp.id}
              materials={resources.materials}
              webs={resources.webs}
              plants={plants}
              chosen={chosen}
              onChosen={setChosen}
              onCopy={copy}
              onStage={() => setStageOpen(true)}
              onMaterials={() => setMaterialsOpen(true)}
              standIn={standIn}
              reach={reach}
              onReach={setReach}
              addsVariant={addsVariant}
              onAddsVariant={setAddsVariant}
              onPickUp={pickUp}
            />
          </Beside>
        )}
        {side !== null && (
          <aside
            data-over-view
            aria-label={side === 'things' ? 'Things in the scene' : 'Pictures'}
            className={`absolute top-0 right-0 ${isShelfOpen ? 'bottom-[9.5rem]' : 'bottom-11'} z-[8] w-80 overflow-y-auto border-l border-line bg-surround/95 p-4`}
          >
            {side === 'things' ? (
              <ThingsPanel
                scene={scene}
                session={session}
                stageParts={staged.book.stageParts}
                onMaterials={() => setMaterialsOpen(true)}
                chosen={chosen}
                onChosen={setChosen}
                activeGroup={activeGroup}
                onActiveGroup={setActiveGroup}
              />
            ) : (
              <PicturesPanel mockUpId={mockUp.id} pictures={pictures} />
            )}
          </aside>
        )}
        <Shelf
          library={library}
          isOpen={isShelfOpen}
          onOpen={setShelfOpen}
          used={used}
          onBring={chip => void bringIn([chip.id])}
        />
      </div>
      {isOrderOpen && (
        <OrderDialog
          scene={scene}
          shot={shown.shotId}
          onOrder={wanted => void render(wanted)}
          onClose={() => setOrderOpen(false)}
        />
      )}
      {isNewerOpen && (
        <NewerDialog
          outdated={outdated}
          scene={scene}
          session={session}
          onItems={addItems}
          onRender={codes => {
            setNewerOpen(false)
            void render({ shots: shown.shotId === null ? [] : [shown.shotId], quality: 'draft', newer: [...codes] })
          }}
          onClose={() => setNewerOpen(false)}
        />
      )}
      {isStageOpen && (
        <StageDialog
          mockUp={mockUp}
          stage={scene.stage}
          session={session}
          onClose={() => setStageOpen(false)}
          onMaterials={() => setMaterialsOpen(true)}
          begins={beginsWithModel ? 'model' : undefined}
        />
      )}
      {isMaterialsOpen && scene.stage.kind === 'model' && (
        <StageMaterials
          mockUp={mockUp}
          stage={scene.stage}
          library={library}
          session={session}
          onItems={addItems}
          onClose={() => setMaterialsOpen(false)}
        />
      )}
    </div>
  )
}

const LIGHT_NAMES = { bulb: 'Bulb', panel: 'Panel' } as const
/** The part that a material would go to. */
const spotOf = (hit: ReturnType<Staged['cast']>): Spot | null =>
  hit?.of.kind === 'piece'
    ? { piece: hit.of.id, part: hit.part }
    : hit?.of.kind === 'stage'
      ? { piece: null, part: hit.part }
      : null
const boxAt = (point: Vec3): Box => ({ min: point, max: point })
const SHORT_SHADOW_M = 2
const AS_IT_IS = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]
