import { formatDistanceToNow } from 'date-fns'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Stage } from '#core/mock-up/scene/scene'
import type { MockUpSummary } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { ChoiceField } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { FormDialog } from '../../components/dialogs/FormDialog'
import { Panel } from '../../components/Page'
import { useCreateMockUpMutation, useListMockUpsQuery } from '../../state/api'
import { plural } from '../../words/states'
import { type BuiltKind, beginStage, STAGE_WORDS } from './stage/StageDialog'

/** Mock-ups of a project, or of everywhere one may look; and a new one. */
export function MockUpsPanel({ projectId }: { projectId: number | null }) {
  const { data } = useListMockUpsQuery(projectId === null ? {} : { project: projectId })
  const [isNewOpen, setNewOpen] = useState(false)
  const mockUps = data ?? []
  return (
    <Panel
      label="Mock-ups"
      title="Mock-ups"
      actions={<Button onClick={() => setNewOpen(true)}>New mock-up</Button>}
      className="mb-6"
    >
      {data && mockUps.length === 0 && (
        <p className="text-quiet">None yet. In a mock-up items stand together under a sky, before they go into a project.</p>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-4">
        {mockUps.map(m => (
          <MockUpCard key={m.id} mockUp={m} hasProject={projectId === null} />
        ))}
      </ul>
      {isNewOpen && <NewMockUp projectId={projectId} known={mockUps} onClose={() => setNewOpen(false)} />}
    </Panel>
  )
}

function MockUpCard({ mockUp: m, hasProject }: { mockUp: MockUpSummary; hasProject: boolean }) {
  return (
    <li className="min-w-0">
      <Link to={`/mock-ups/${m.id}`} className="block bg-mount hover:outline hover:outline-edge">
        {m.cover ? (
          <img src={m.cover} alt="" loading="lazy" className="aspect-[16/10] w-full object-cover" />
        ) : (
          <span className="flex aspect-[16/10] items-center justify-center text-xs text-quiet">not rendered yet</span>
        )}
        <span className="block px-2 py-1.5">
          <span className="block truncate font-medium">{m.title}</span>
          <span className="block truncate text-xs text-quiet">
            {hasProject && (m.project ? `${m.project.code} · ` : m.isOwn ? 'yours · ' : `${m.owner} · `)}
            {plural(m.pieces, 'piece')}, {plural(m.shots, 'shot')}
          </span>
          <span className="block truncate text-2xs text-quiet">
            {m.isTemplate ? 'a template · ' : ''}
            changed {formatDistanceToNow(new Date(m.changedAt), { addSuffix: true })}
          </span>
        </span>
      </Link>
    </li>
  )
}

const KINDS = Object.keys(STAGE_WORDS) as Stage['kind'][]

function NewMockUp({
  projectId,
  known,
  onClose,
}: {
  projectId: number | null
  known: readonly MockUpSummary[]
  onClose: () => void
}) {
  const [title, setTitle] = useState('')
  const [from, setFrom] = useState<string>('room')
  const [create, { isLoading }] = useCreateMockUpMutation()
  const { data: all = [] } = useListMockUpsQuery({})
  const templates = all.filter(m => m.isTemplate)
  const navigate = useNavigate()
  const begin = async () => {
    const isStage = (KINDS as string[]).includes(from)
    const result = await create({
      title,
      projectId,
      ...(isStage ? { stage: beginStage(from === 'model' ? 'empty' : (from as BuiltKind)) } : { from: Number(from) }),
    })
    if (result.data) navigate(`/mock-ups/${result.data.id}`, { state: { stage: from } })
    else tellProblem(result.error)
  }
  return (
    <FormDialog
      title="Begin a mock-up"
      action="Begin"
      disabled={isLoading || title.trim() === ''}
      onClose={onClose}
      onSubmit={event => {
        event.preventDefault()
        void begin()
      }}
    >
      <TextField label="Title" name="title" value={title} onChange={event => setTitle(event.target.value)} />
      <ChoiceField
        label="From"
        value={from}
        onChange={setFrom}
        options={[
          ...KINDS.map(value => ({ value: value as string, text: STAGE_WORDS[value] })),
          ...templates.map(m => ({ value: String(m.id), text: `the template ${m.title}` })),
          ...known.filter(m => !m.isTemplate).map(m => ({ value: String(m.id), text: `a copy of ${m.title}` })),
        ]}
      />
    </FormDialog>
  )
}
