import { format } from 'date-fns'
import { useRef, useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import type { Pin, Project } from '#shared/contracts/projects.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { EmptyState } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { usePinItemsMutation, useUnpinItemsMutation } from '../../state/api'
import { plural } from '../../words/states'
import { MockUpsPanel } from '../mock-up/MockUpsPanel'
import { ScenesPanel } from './audits/ScenesPanel'
import { ExportPanel } from './ExportPanel'
import { GuestsPanel } from './GuestsPanel'
import { OpenProject } from './OpenProject'
import { RunPanel } from './RunPanel'

/** One job: what it pins, and what was exported for it. */
export const ProjectPlace = () => <OpenProject>{project => <ProjectView project={project} />}</OpenProject>

function ProjectView({ project }: { project: Project }) {
  const [marked, setMarked] = useState<readonly number[]>([])
  // What was taken out meanwhile is chosen no more.
  const chosen = marked.filter(id => project.pinned.some(p => p.chip.id === id))
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          from={{ to: '/projects', text: 'Projects' }}
          title={project.title}
          facts={`${project.code} · ${project.library}${project.phase === 'open' ? '' : ` · ${project.phase}`}`}
        />
      </div>
      <div className="mx-auto grid max-w-[100rem] grid-cols-[minmax(0,1fr)_19rem] gap-8">
        <section>
          <MockUpsPanel projectId={project.id} />
          <ScenesPanel project={project} />
          <Pins project={project} chosen={chosen} onChoose={setMarked} />
        </section>
        <div className="flex flex-col gap-6">
          <ExportPanel project={project} chosen={chosen} />
          <RunPanel project={project} />
          <GuestsPanel project={project} />
        </div>
      </div>
    </Page>
  )
}

interface PinsProps {
  project: Project
  chosen: readonly number[]
  onChoose: (ids: readonly number[]) => void
}

function Pins({ project, chosen, onChoose }: PinsProps) {
  const last = useRef<number | null>(null)
  const asked = project.pinned.filter(p => p.isAsked)
  const ids = project.pinned.map(p => p.chip.id)
  const choose = (id: number, isOn: boolean, withShift: boolean) => {
    const [from, to] = [ids.indexOf(withShift ? (last.current ?? id) : id), ids.indexOf(id)].sort((a, b) => a - b)
    const range = ids.slice(Math.max(0, from), to + 1)
    last.current = id
    onChoose(isOn ? [...new Set([...chosen, ...range])] : chosen.filter(c => !range.includes(c)))
  }
  if (project.pinned.length === 0)
    return (
      <EmptyState title="Nothing is pinned yet.">
        <p className="mb-3">Put items in the tray on the wall, then choose this project.</p>
        <Link to="/wall" className="underline">
          To the wall
        </Link>
      </EmptyState>
    )
  return (
    <>
      {asked.length > 0 && (
        <div className="mb-3 flex items-center gap-3 bg-sheet px-3 py-2">
          <span>{plural(asked.length, 'pin has', 'pins have')} a newer version, or went from the library.</span>
          <Link
            to={`/projects/${project.id}/decisions`}
            className="ml-auto inline-flex h-8 items-center rounded-sm bg-accent px-3 font-semibold text-on-accent hover:brightness-105"
          >
            See what would change
          </Link>
        </div>
      )}
      <div className="flex items-center gap-3 pb-2 text-xs text-quiet">
        <CheckBox
          label={chosen.length > 0 ? `${chosen.length} chosen to hand over` : 'Choose all'}
          checked={chosen.length === ids.length}
          isPartly={chosen.length > 0}
          onChange={isOn => onChoose(isOn ? ids : [])}
        />
      </div>
      <ul className="border-t border-line">
        {project.pinned.map(pin => (
          <PinLine
            key={pin.chip.id}
            pin={pin}
            projectId={project.id}
            isChosen={chosen.includes(pin.chip.id)}
            onChoose={(isOn, withShift) => choose(pin.chip.id, isOn, withShift)}
          />
        ))}
      </ul>
    </>
  )
}

interface PinLineProps {
  pin: Pin
  projectId: number
  isChosen: boolean
  onChoose: (isOn: boolean, withShift: boolean) => void
}

function PinLine({ pin, projectId, isChosen, onChoose }: PinLineProps) {
  const { chip } = pin
  const location = useLocation()
  const [unpin] = useUnpinItemsMutation()
  const [pinAgain] = usePinItemsMutation()
  const remove = async () => {
    const result = await unpin({ id: projectId, ids: [chip.id] })
    if (result.error) tellProblem(result.error)
    else
      toast(`${chip.name} is taken out.`, {
        action: { label: 'Undo', onClick: () => pinAgain({ id: projectId, ids: [chip.id] }) },
      })
  }
  return (
    <li className="grid grid-cols-[1rem_5rem_minmax(0,1fr)_9rem_7rem_5.5rem] items-center gap-4 border-b border-line py-2">
      <CheckBox label={`Choose ${chip.name}`} isLabelHidden checked={isChosen} onChange={onChoose} />
      <Link to={`/items/${chip.code}`} state={{ behind: location }} aria-label={chip.name}>
        <PreviewFrame url={chip.preview} alt="" />
      </Link>
      <span className="min-w-0">
        <Link to={`/items/${chip.code}`} state={{ behind: location }} className="block truncate font-medium hover:underline">
          {chip.name}
        </Link>
        <span className="figures block text-xs text-quiet">
          {chip.code} <span className="ml-1">{chip.figure}</span>
        </span>
      </span>
      <span className="text-xs text-quiet">
        {pin.person}, {format(new Date(pin.createdAt), 'd MMM')}
      </span>
      <span>
        version {pin.versionNumber}
        {pin.isAsked ? (
          <Link to={`/projects/${projectId}/decisions`} className="block text-xs font-medium underline">
            {pin.approvedNumber === pin.versionNumber ? 'withdrawn' : `version ${pin.approvedNumber} is there`}
          </Link>
        ) : (
          pin.approvedNumber !== null &&
          pin.approvedNumber !== pin.versionNumber && (
            <span className="block text-xs text-quiet">stays before {pin.approvedNumber}</span>
          )
        )}
      </span>
      <Button variant="bare" onClick={remove}>
        Take out
      </Button>
    </li>
  )
}
