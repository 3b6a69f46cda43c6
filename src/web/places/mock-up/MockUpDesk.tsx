import { useEffect, useMemo, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import { toast } from 'sonner'
import { frameBox, walk } from '#core/mock-up/composing/look-through'
import { sunOfSky } from '#core/mock-up/light/sky-map'
import { choiceAt, sceneOfShot, showVariant } from '#core/mock-up/materials/variants'
import type { MockUp, OrderPictures } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../components/bulk-words'
import { useListMockUpPicturesQuery, useOrderMockUpPicturesMutation } from '../../state/api'
import { ChosenCard } from './cards/ChosenCard'
import { type MockUpDialog, MockUpDialogs } from './MockUpDialogs'
import { listOutdated } from './NewerDialog'
import { SceneWindow } from './SceneWindow'
import { Shelf } from './Shelf'
import { PicturesPanel } from './shots/PicturesPanel'
import { useAssigning } from './state/use-assigning'
import { useDrawing } from './state/use-drawing'
import { useKnownItems } from './state/use-known-items'
import { useMockUp } from './state/use-mock-up'
import { useOpenLibraries } from './state/use-open-libraries'
import { usePieceActions } from './state/use-piece-actions'
import { usePlants } from './state/use-plants'
import { countUnopened, useResources } from './state/use-resources'
import { useSelection } from './state/use-selection'
import { useShots } from './state/use-shots'
import { useSkyGround, useStaged } from './state/use-staged'
import { useTracedView } from './state/use-traced-view'
import { useViewChoices } from './state/use-view-choices'
import { ThingsPanel } from './ThingsPanel'
import { TopLine } from './TopLine'
import { TypesSection } from './TypesSection'
import { useFromShelf } from './use-from-shelf'
import { Beside } from './view/Beside'
import { besideOf } from './view/marks-of'
import { useMockUpKeys } from './view/use-mock-up-keys'
import { type Touch, usePointer } from './view/use-pointer'
import { useSize } from './view/use-size'

/** The traced picture is so wide at most: more takes two cores too long to be of use while one works. */
const TRACED_PX = 960
const LIGHT_NAMES = { bulb: 'Bulb', panel: 'Panel' } as const

/** A mock-up being worked on: the picture, the shelf along its lower edge, the shots and the light above it, and beside what is chosen what concerns it. */
export function MockUpDesk({ mockUp }: { mockUp: MockUp }) {
  const { view, session } = useMockUp(mockUp)
  const { scene } = view
  const { items, addItems } = useKnownItems(mockUp, scene)
  const resources = useResources(scene, items)
  const plants = usePlants(scene, resources)
  const { data: pictures = [] } = useListMockUpPicturesQuery({ id: mockUp.id })
  const [order] = useOrderMockUpPicturesMutation()
  const library = useOpenLibraries(mockUp)
  const outdated = useMemo(() => listOutdated(scene, items), [scene, items])

  const selection = useSelection(scene)
  const { chosen, ids } = selection
  const [snaps, setSnaps] = useState<{ isOn: boolean; gridM: number | null }>({ isOn: true, gridM: null })
  const [activeGroup, setActiveGroup] = useState<string | null>(null)
  const [isShelfOpen, setShelfOpen] = useState(() => Object.keys(scene.pieces).length === 0)
  const [side, setSide] = useState<'things' | 'pictures' | null>(null)
  /** Begun to stand in a model of one's own, which is still to be chosen. */
  const beginsWithModel = (useLocation().state as { stage?: string } | null)?.stage === 'model' && scene.stage.kind === 'empty'
  const [dialog, setDialog] = useState<MockUpDialog | null>(beginsWithModel ? 'stage' : null)
  const choices = useViewChoices()
  const frame = useRef<HTMLDivElement>(null)
  const size = useSize(frame)

  const pen = useDrawing({
    ...{ scene, session, items, ids, activeGroup },
    onPlanted: id => selection.choose({ kind: 'planting', id, plant: null }),
  })
  const { drawing } = pen
  const shown = useShots(scene, session, resources.skies, size)
  const { shots, shot, lens, seen, viewShot, sky, skyId } = shown
  const ground = useSkyGround(scene, skyId, resources)
  const staged = useStaged(shot ? sceneOfShot(scene, shot) : scene, resources, plants, ground)
  const opening = useMemo(() => countUnopened(scene, resources), [scene, resources])
  const [isGesturing, setGesturing] = useState(false)
  const isAtRest = opening === 0 && size.width > 1 && !isGesturing && drawing === null
  const traced = useTracedView(scene, viewShot, items, Math.min(TRACED_PX, size.width), choices.tracesAtRest && isAtRest)

  // A model of one's own may stand anywhere, and be of any size: it is looked at once it is there.
  const stageKey = scene.stage.kind === 'model' ? scene.stage.model.key : null
  const framed = useRef(shots.length > 0 ? stageKey : null)
  useEffect(() => {
    if (!staged.stageBox || framed.current === stageKey) return
    framed.current = stageKey
    shown.look(frameBox(seen, staged.stageBox))
  })

  const assigning = useAssigning({ scene, session, items, selection, book: staged.book })
  const pieces = usePieceActions({ scene, session, selection, boxes: staged.boxes })
  const shelf = useFromShelf({
    ...{ scene, session, selection, assigning, staged, items, addItems, activeGroup, seen },
    models: resources.models,
    onSky: shown.setSky,
  })

  const onTouch = ({ target, part, withShift }: Touch) => {
    if (assigning.isCarrying && (target?.kind === 'piece' || target?.kind === 'stage'))
      return assigning.putCarriedOn({ piece: target.kind === 'piece' ? target.id : null, part })
    if (!target) return selection.choose(null)
    if (target.kind === 'stage') return selection.choose(withShift ? chosen : { kind: 'stage', part })
    if (target.kind === 'light') return selection.choose({ kind: 'light', id: target.id })
    if (target.kind === 'planting') return selection.choose({ kind: 'planting', id: target.id, plant: target.plant })
    if (!withShift) return selection.choose({ kind: 'pieces', ids: [target.id], part })
    const without = ids.filter(id => id !== target.id)
    selection.choosePieces(without.length < ids.length ? without : [...ids, target.id])
  }
  const pointer = usePointer({
    ...{ scene, staged, snaps, session, onTouch, lens: seen, chosen: ids },
    setLens: shown.look,
    onCorner: drawing === null ? null : pen.add,
  })

  const render = async (wanted: OrderPictures) => {
    setDialog(null)
    if (wanted.shots.length === 0) {
      toast('Take a shot first: a picture is made of one.')
      return
    }
    await session.flush()
    const result = await order({ id: mockUp.id, ...wanted })
    if (result.error) tellProblem(result.error)
    else setSide('pictures')
  }
  const letGo = () => {
    if (assigning.isCarrying) assigning.layDown()
    else if (drawing) pen.cancel()
    else if (chosen) selection.choose(null)
    else setSide(null)
  }
  useMockUpKeys(lens, ids.length > 0, {
    undo: () => session.undo(),
    redo: () => session.redo(),
    ...{ takeOut: pieces.takeOut, copy: pieces.copy, hide: pieces.hide, lock: pieces.lock },
    ...{ moveBy: pieces.moveBy, turnBy: pieces.turnBy, letGo },
    frame: () => {
      const box = pieces.boxOf(ids.length > 0 ? ids : Object.keys(scene.pieces)) ?? staged.stageBox
      if (box) shown.look(frameBox(seen, box))
    },
    takeShot: shown.take,
    toShot: place => shots[place] && shown.toShot(shots[place][0]),
    pickUp: () => (assigning.isCarrying ? assigning.layDown() : assigning.pickUp()),
    walk: (forward, right) => shown.look(walk(lens, forward, right)),
    trace: () => choices.setTraces(!choices.tracesAtRest),
    things: () => setSide(side === 'things' ? null : 'things'),
    pictures: () => setSide(side === 'pictures' ? null : 'pictures'),
    measure: () => (drawing?.kind === 'distance' ? pen.cancel() : pen.begin('distance')),
    nextVariant: () => {
      const found = selection.spot && choiceAt(scene, selection.spot)
      if (found) session.act(showVariant(scene, found.id, found.choice.shown + 1))
    },
  })

  const missing = Object.values(scene.pieces).filter(
    p => resources.failed.has(p.item.inputKey) || items.get(p.item.inputKey)?.state === 'hidden',
  ).length
  const sun = sky ? sunOfSky(sky, (sky.item && items.get(sky.item.inputKey)?.sun) ?? null) : null
  /** Where it stands in the scene. */
  const sunInScene = sky && sun ? { ...sun, azimuthDeg: sun.azimuthDeg - sky.turnDeg } : null

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
        onOrder={() => setDialog('order')}
        onStage={() => setDialog('stage')}
        onDraw={pen.begin}
        onLight={kind => shelf.hang(LIGHT_NAMES[kind], { kind })}
        onCheck={pieces.checkPlaces}
        choices={choices}
        outdated={outdated.length}
        onNewer={() => setDialog('newer')}
      />
      <div className="relative min-h-0 flex-1">
        <SceneWindow
          scene={scene}
          session={session}
          frame={frame}
          size={size}
          shown={shown}
          staged={staged}
          webs={resources.webs}
          selection={selection}
          assigning={assigning}
          pen={pen}
          pointer={pointer}
          traced={traced}
          choices={choices}
          sun={sun}
          showsLights={side === 'things'}
          opening={opening}
          missing={missing}
          onGesture={setGesturing}
          onBring={(list, landing) => void shelf.bringIn(list, landing)}
        />
        {chosen && !pointer.moving && drawing === null && (
          <Beside
            lens={seen}
            box={besideOf(scene, staged.boxes, selection, sunInScene)}
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
              onChosen={selection.choose}
              onCopy={pieces.copy}
              onStage={() => setDialog('stage')}
              onMaterials={() => setDialog('materials')}
              standIn={shelf.standIn}
              assigning={assigning}
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
                onMaterials={() => setDialog('materials')}
                chosen={chosen}
                onChosen={selection.choose}
                activeGroup={activeGroup}
                onActiveGroup={setActiveGroup}
                types={
                  <TypesSection
                    scene={scene}
                    session={session}
                    stageParts={staged.book.stageParts}
                    items={items}
                    spot={selection.spot}
                    onType={spot => {
                      assigning.setReach('type')
                      selection.chooseSpot(spot)
                    }}
                  />
                }
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
          used={shelf.used}
          onBring={chip => void shelf.bringIn([chip.id])}
        />
      </div>
      <MockUpDialogs
        open={dialog}
        onOpen={setDialog}
        mockUp={mockUp}
        scene={scene}
        session={session}
        shot={shown.shotId}
        outdated={outdated}
        library={library}
        beginsWithModel={beginsWithModel}
        onItems={addItems}
        onRender={wanted => void render(wanted)}
      />
    </div>
  )
}
