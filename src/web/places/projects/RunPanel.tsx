import { toast } from 'sonner'
import { type EditProject, PROJECT_PHASES, type Project, type ProjectPhase } from '#shared/contracts/projects.contract'
import { tellProblem } from '../../components/bulk-words'
import { Choice, ManyChoice, optionsOf } from '../../components/controls/Choice'
import { Panel } from '../../components/Page'
import { useEditProjectMutation, useGetSessionQuery, useListMembersQuery } from '../../state/api'
import { NotesField } from './NotesField'

export const PHASE_WORDS: Record<ProjectPhase, string> = { open: 'open', frozen: 'frozen', closed: 'closed' }
const PHASE_HINTS: Record<ProjectPhase, string> = {
  open: 'Newer versions are asked about.',
  frozen: 'It keeps its versions until it is opened again.',
  closed: 'It is done, and asked nothing.',
}

/** How a project is run: its phase, who decides for it, what is noted. */
export function RunPanel({ project }: { project: Project }) {
  const { data: session } = useGetSessionQuery()
  const { data: members = [] } = useListMembersQuery()
  const [edit] = useEditProjectMutation()
  const isLead = session?.person?.role === 'lead'
  const workers = members.filter(m => m.role !== 'guest' && m.isActive)
  const change = async (given: EditProject, said: string, back?: EditProject) => {
    const result = await edit({ id: project.id, ...given })
    if (result.error) return tellProblem(result.error)
    toast(said, { action: back && { label: 'Undo', onClick: () => void edit({ id: project.id, ...back }) } })
  }
  const deciders = project.people.map(p => p.id)
  return (
    <Panel title="How it is run">
      <div className="flex flex-col gap-3">
        <div className="flex flex-col gap-1">
          <span>Phase</span>
          {project.mayDecide ? (
            <Choice
              label="Phase"
              value={project.phase}
              onChange={phase => void change({ phase }, `${project.code} is ${PHASE_WORDS[phase]}.`, { phase: project.phase })}
              options={optionsOf(PROJECT_PHASES, PHASE_WORDS)}
              className="w-full"
            />
          ) : (
            <span className="font-medium">{PHASE_WORDS[project.phase]}</span>
          )}
          <span className="text-xs text-quiet">{PHASE_HINTS[project.phase]}</span>
        </div>
        <div className="flex flex-col gap-1">
          <span>Who decides</span>
          {isLead ? (
            <ManyChoice
              label="Who decides"
              none="everybody who sees it"
              className="w-full"
              values={deciders.map(String)}
              onChange={ids =>
                void change({ personIds: ids.map(Number) }, `Who decides for ${project.code} is changed.`, {
                  personIds: deciders,
                })
              }
              options={workers.map(m => ({ value: String(m.id), text: m.name }))}
            />
          ) : (
            <span>{project.people.map(p => p.name).join(', ') || 'everybody who sees it'}</span>
          )}
        </div>
        <NotesField
          value={project.notes}
          isReadOnly={!project.mayDecide}
          onSettle={notes => void change({ notes }, 'The notes are kept.', { notes: project.notes })}
        />
      </div>
    </Panel>
  )
}
