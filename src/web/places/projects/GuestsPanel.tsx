import { Link } from 'react-router'
import { toast } from 'sonner'
import type { Project } from '#shared/contracts/projects.contract'
import { tellProblem } from '../../components/bulk-words'
import { ManyChoice } from '../../components/controls/Choice'
import { Panel } from '../../components/Page'
import { useChangeGuestsMutation, useGetSessionQuery, useListMembersQuery } from '../../state/api'

/** Whom a project is shown to who does not work here; a lead says so. */
export function GuestsPanel({ project }: { project: Project }) {
  const { data: session } = useGetSessionQuery()
  const { data: members = [] } = useListMembersQuery()
  const [change] = useChangeGuestsMutation()
  const guests = members.filter(m => m.role === 'guest' && m.isActive)
  const mayEdit = session?.person?.role === 'lead'
  const shown = project.guests.map(g => g.id)
  const show = async (personIds: number[]) => {
    const result = await change({ id: project.id, personIds })
    if (result.error) return tellProblem(result.error)
    toast(`Whom ${project.title} is shown to is changed.`, {
      action: { label: 'Undo', onClick: () => change({ id: project.id, personIds: shown }) },
    })
  }
  return (
    <Panel title="Shown to">
      {!mayEdit ? (
        <p className={project.guests.length === 0 ? 'text-quiet' : ''}>
          {project.guests.map(g => g.name).join(', ') || 'no guest'}
        </p>
      ) : guests.length === 0 ? (
        <p className="text-quiet">
          Nobody yet: invite a guest at{' '}
          <Link to="/people" className="underline hover:text-ink">
            People
          </Link>{' '}
          first.
        </p>
      ) : (
        <ManyChoice
          label="Guests it is shown to"
          none="no guest"
          className="w-full"
          values={shown.map(String)}
          onChange={ids => show(ids.map(Number))}
          options={guests.map(g => ({ value: String(g.id), text: g.name }))}
        />
      )}
      <p className="mt-2 text-xs text-quiet">Guests see its items and their pictures, and nothing else here.</p>
    </Panel>
  )
}
