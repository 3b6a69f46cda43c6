import { CircleArrowUp, Images, ListTree, MoreHorizontal, Redo2, Undo2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Shot } from '#core/mock-up/scene/scene'
import type { MockUp, MockUpItem, MockUpPicture } from '#shared/contracts/mock-ups.contract'
import { tellBulk, tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { DraftField } from '../../components/controls/DraftField'
import { IconButton } from '../../components/controls/IconButton'
import { ToolMenu, ToolMenuEntry } from '../../components/controls/ToolMenu'
import { useCreateMockUpMutation, useEditMockUpMutation, useGetSessionQuery, usePinMockUpMutation } from '../../state/api'
import { plural } from '../../words/states'
import { SkyPanel } from './light/SkyPanel'
import { SaveDialog } from './SaveDialog'
import { ShotCard } from './shots/ShotCard'
import { ShotStrip } from './shots/ShotStrip'
import type { MockUpSession, MockUpView, SavedState } from './state/mock-up-session'
import type { DrawingKind } from './state/use-drawing'
import type { ViewChoices } from './state/use-view-choices'
import { VersionsDialog } from './VersionsDialog'

const SAVED_WORDS: Record<SavedState, string> = { saved: 'saved', saving: 'saving…', offline: 'not saved yet; it is tried again' }

interface Props {
  mockUp: MockUp
  view: MockUpView
  session: MockUpSession
  items: ReadonlyMap<string, MockUpItem>
  pictures: readonly MockUpPicture[]
  shotId: string | null
  onShot: (id: string) => void
  onTake: () => void
  isAway: boolean
  onSetHere: () => void
  onBack: () => void
  onShotGone: () => void
  onShotFigures: (shot: Shot) => void
  sky: string | null
  onSky: (sky: string | null) => void
  snaps: { isOn: boolean; gridM: number | null }
  onSnaps: (snaps: { isOn: boolean; gridM: number | null }) => void
  side: 'things' | 'pictures' | null
  onSide: (side: 'things' | 'pictures' | null) => void
  /** The shot that is looked through. */
  onRender: (quality: 'draft' | 'final') => void
  /** Several at once. */
  onOrder: () => void
  onStage: () => void
  /** Where plants grow, or what is measured, is drawn by clicks from now on. */
  onDraw: (kind: DrawingKind) => void
  /** Items of which a newer version is approved. */
  outdated: number
  onNewer: () => void
  onLight: (kind: 'bulb' | 'panel') => void
  onCheck: () => void
  choices: ViewChoices
}

/** What the mock-up is called and whether it is saved; its shots and its light; and what is done with all of it. */
export function TopLine(props: Props) {
  const { mockUp, view, session, items, pictures, shotId, sky, onSky, side, onSide, onRender, snaps, onSnaps, choices } = props
  const [edit] = useEditMockUpMutation()
  const [create] = useCreateMockUpMutation()
  const [pin] = usePinMockUpMutation()
  const [areVersionsOpen, setVersionsOpen] = useState(false)
  const [isSaveOpen, setSaveOpen] = useState(false)
  const [title, setTitle] = useState(mockUp.title)
  const [isTemplate, setTemplate] = useState(mockUp.isTemplate)
  const { data: who } = useGetSessionQuery()
  const isLead = who?.person?.role === 'lead'
  const navigate = useNavigate()
  const { scene } = view
  const change = async (given: Parameters<typeof edit>[0]) => {
    const result = await edit(given)
    if (result.error) tellProblem(result.error)
    return !result.error
  }
  const rename = async (text: string) => {
    if (text !== '' && (await change({ id: mockUp.id, title: text }))) setTitle(text)
  }
  const copy = async () => {
    await session.flush()
    const result = await create({ title: `${title}, copy`, from: mockUp.id, projectId: mockUp.project?.id ?? null })
    if (result.data) navigate(`/mock-ups/${result.data.id}`)
    else tellProblem(result.error)
  }
  const save = async () => {
    await session.flush()
    window.location.assign(`/api/mock-ups/${mockUp.id}/glb`)
  }
  const pinAll = async () => {
    await session.flush()
    const result = await pin({ id: mockUp.id })
    if (result.data) tellBulk(count => `${plural(count, 'item is', 'items are')} pinned in ${mockUp.project?.code}.`, result.data)
    else tellProblem(result.error)
  }
  const keepAsTemplate = async () => {
    if (!(await change({ id: mockUp.id, isTemplate: !isTemplate }))) return
    toast(isTemplate ? `${title} is no template any more.` : `Mock-ups can begin from ${title} now.`, {
      action: {
        label: 'Undo',
        onClick: () => void change({ id: mockUp.id, isTemplate }).then(ok => ok && setTemplate(isTemplate)),
      },
    })
    setTemplate(!isTemplate)
  }
  const putAside = async () => {
    if (!(await change({ id: mockUp.id, isRemoved: true }))) return
    navigate(mockUp.project ? `/projects/${mockUp.project.id}` : '/projects')
    toast(`${title} is put aside.`, { action: { label: 'Undo', onClick: () => void edit({ id: mockUp.id, isRemoved: false }) } })
  }
  const rendering = pictures.filter(p => p.state === 'waiting' || p.state === 'rendering').length
  return (
    <header className="shrink-0 border-b border-line px-6">
      <div className="flex h-11 items-center gap-3">
        <div className="flex min-w-0 items-baseline gap-2">
          <Link
            to={mockUp.project ? `/projects/${mockUp.project.id}` : '/projects'}
            className="shrink-0 text-xs text-quiet hover:text-ink hover:underline"
          >
            {mockUp.project?.code ?? 'Projects'}
          </Link>
          <h1 className="sr-only">{title}</h1>
          <DraftField
            label="Title of the mock-up"
            value={title}
            onSettle={rename}
            className="w-56 !border-transparent !bg-transparent font-medium hover:!border-edge focus:!bg-mount"
          />
          <span role="status" className={`shrink-0 text-xs ${view.saved === 'offline' ? 'font-medium' : 'text-quiet'}`}>
            {SAVED_WORDS[view.saved]}
          </span>
        </div>
        <div className="flex gap-0.5">
          <IconButton look="bare" label="Undo, Ctrl Z" onClick={() => session.undo()} disabled={!view.canUndo}>
            <Undo2 aria-hidden className="size-4" />
          </IconButton>
          <IconButton look="bare" label="Redo, Ctrl Shift Z" onClick={() => session.redo()} disabled={!view.canRedo}>
            <Redo2 aria-hidden className="size-4" />
          </IconButton>
        </div>
        <div className="ml-auto flex items-center gap-1.5">
          {props.outdated > 0 && (
            <Button variant="bare" onClick={props.onNewer} title="Versions that were approved since these were brought in">
              <CircleArrowUp aria-hidden className="size-3.5" />
              {plural(props.outdated, 'newer version')}
            </Button>
          )}
          <Button
            variant="bare"
            aria-pressed={side === 'things'}
            onClick={() => onSide(side === 'things' ? null : 'things')}
            className={side === 'things' ? 'bg-mount' : ''}
            title="Everything in the scene, key O"
          >
            <ListTree aria-hidden className="size-3.5" />
            Things
          </Button>
          <Button
            variant="bare"
            aria-pressed={side === 'pictures'}
            onClick={() => onSide(side === 'pictures' ? null : 'pictures')}
            className={side === 'pictures' ? 'bg-mount' : ''}
            title="Its renderings, key I"
          >
            <Images aria-hidden className="size-3.5" />
            Pictures
            {rendering > 0 && <span className="figures text-xs">{rendering} under way</span>}
          </Button>
          <ToolMenu icon={MoreHorizontal} label="More">
            <ToolMenuEntry onClick={props.onStage}>The stage and its measures</ToolMenuEntry>
            <ToolMenuEntry onClick={() => props.onDraw('area')}>Plant an area</ToolMenuEntry>
            <ToolMenuEntry onClick={() => props.onDraw('line')}>Plant along a line</ToolMenuEntry>
            <ToolMenuEntry onClick={() => props.onDraw('distance')} count="X">
              Measure between two points
            </ToolMenuEntry>
            <ToolMenuEntry onClick={() => props.onLight('panel')}>Add a panel of light</ToolMenuEntry>
            <ToolMenuEntry onClick={() => props.onLight('bulb')}>Add a bulb</ToolMenuEntry>
            <ToolMenuEntry onClick={props.onCheck}>What floats, sinks or overlaps</ToolMenuEntry>
            <ToolMenuEntry onClick={() => onSnaps({ ...snaps, isOn: !snaps.isOn })}>
              {snaps.isOn ? 'Move freely' : 'Hold to sides, middles and gaps'}
            </ToolMenuEntry>
            {[null, 0.01, 0.05, 0.1].map(gridM => (
              <ToolMenuEntry
                key={String(gridM)}
                onClick={() => onSnaps({ isOn: true, gridM })}
                count={snaps.gridM === gridM ? '•' : undefined}
              >
                {gridM === null ? 'No grid' : `Grid of ${gridM * 1000} mm`}
              </ToolMenuEntry>
            ))}
            <ToolMenuEntry onClick={() => choices.setTraces(!choices.tracesAtRest)} count="T">
              {choices.tracesAtRest ? 'Leave the view as it is at rest' : 'Refine the view at rest'}
            </ToolMenuEntry>
            <ToolMenuEntry onClick={() => choices.setShadows(!choices.drawsShadows)}>
              {choices.drawsShadows ? 'Draw no shadows of the sun' : 'Draw the shadows of the sun'}
            </ToolMenuEntry>
            <ToolMenuEntry isLast onClick={() => setVersionsOpen(true)}>
              Versions
            </ToolMenuEntry>
            <ToolMenuEntry onClick={() => void session.flush().then(() => navigate(`/mock-ups/${mockUp.id}/schedule`))}>
              Schedule of what is in it
            </ToolMenuEntry>
            {isLead && (
              <ToolMenuEntry onClick={() => void keepAsTemplate()}>
                {isTemplate ? 'No template any more' : 'Keep it as a template'}
              </ToolMenuEntry>
            )}
            <ToolMenuEntry onClick={copy}>Make a copy</ToolMenuEntry>
            <ToolMenuEntry onClick={save}>Save the scene as binary glTF</ToolMenuEntry>
            <ToolMenuEntry onClick={() => void session.flush().then(() => setSaveOpen(true))}>
              Save it in another form or size
            </ToolMenuEntry>
            {mockUp.project && <ToolMenuEntry onClick={pinAll}>Pin what is in it in {mockUp.project.code}</ToolMenuEntry>}
            {!mockUp.project && mockUp.isOwn && (
              <ToolMenuEntry
                onClick={() =>
                  void change({ id: mockUp.id, isShared: true }).then(
                    ok => ok && toast.success('Everybody in the house may open it.'),
                  )
                }
              >
                Share it with the house
              </ToolMenuEntry>
            )}
            <ToolMenuEntry onClick={props.onOrder}>Render several: shots, skies, variants</ToolMenuEntry>
            <ToolMenuEntry isLast onClick={putAside}>
              Put the mock-up aside
            </ToolMenuEntry>
          </ToolMenu>
          <Button onClick={() => onRender('draft')}>Draft</Button>
          <Button variant="next" onClick={() => onRender('final')}>
            Final
          </Button>
        </div>
      </div>
      <div className="flex h-11 items-center gap-3 pb-1.5">
        <ShotStrip scene={scene} pictures={pictures} active={shotId} onShot={props.onShot} onTake={props.onTake} />
        <div className="ml-auto flex shrink-0 items-center gap-2">
          {shotId !== null && scene.shots[shotId] && (
            <ShotCard
              scene={scene}
              session={session}
              items={items}
              id={shotId}
              isAway={props.isAway}
              onSetHere={props.onSetHere}
              onBack={props.onBack}
              onGone={props.onShotGone}
              onFigures={props.onShotFigures}
            />
          )}
          <SkyPanel scene={scene} session={session} items={items} sky={sky} onSky={onSky} />
        </div>
      </div>
      {isSaveOpen && <SaveDialog mockUpId={mockUp.id} onClose={() => setSaveOpen(false)} />}
      {areVersionsOpen && <VersionsDialog mockUpId={mockUp.id} session={session} onClose={() => setVersionsOpen(false)} />}
    </header>
  )
}
