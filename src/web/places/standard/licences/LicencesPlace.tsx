import { toast } from 'sonner'
import type { LicenceReach } from '#core/hand-over/licence'
import type { LicenceView } from '#shared/contracts/licences.contract'
import { tellProblem } from '../../../components/bulk-words'
import { Choice, ManyChoice, optionsOf } from '../../../components/controls/Choice'
import { CONTROL } from '../../../components/controls/control-look'
import { Skeleton, Trouble } from '../../../components/Notice'
import { Page, PageHead } from '../../../components/Page'
import { useGetSessionQuery, useListLicencesQuery, useListProjectsQuery, useSetLicenceMutation } from '../../../state/api'
import { plural } from '../../../words/states'

const REACH_WORDS: Record<LicenceReach, string> = {
  all: 'every project',
  projects: 'some projects',
  none: 'nothing leaves the house',
}

/** What licences let out: what is not covered stays behind at a hand-over, with the reason. */
export function LicencesPlace() {
  const { data: licences, error, refetch } = useListLicencesQuery()
  const { data: session } = useGetSessionQuery()
  const mayEdit = session?.person?.role === 'lead'
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <Page>
      <div className="mx-auto max-w-[76rem]">
        <PageHead
          title="Licences"
          from={{ to: '/standard', text: 'Standard' }}
          facts="What is not covered stays behind when a project is handed over"
        />
        {!licences && <Skeleton className="h-96" />}
        {licences?.length === 0 && <p className="text-quiet">Nothing in the library comes under a licence yet.</p>}
        {licences && licences.length > 0 && (
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-b border-line text-left text-xs text-quiet [&>th]:py-1.5 [&>th]:pr-3 [&>th]:font-normal">
                <th>Licence</th>
                <th className="!pr-8 text-right">Items</th>
                <th>Covers</th>
                <th>Projects</th>
                <th className="!pr-0">Until the end of</th>
              </tr>
            </thead>
            <tbody>
              {licences.map(licence => (
                <LicenceLine key={licence.wording} licence={licence} mayEdit={mayEdit} />
              ))}
            </tbody>
          </table>
        )}
      </div>
    </Page>
  )
}

function LicenceLine({ licence, mayEdit }: { licence: LicenceView; mayEdit: boolean }) {
  const { data: projects = [] } = useListProjectsQuery()
  const [set] = useSetLicenceMutation()
  const { wording, reach, projectIds, until, items, isSaid } = licence
  const before = { wording, reach, projectIds, until }
  const change = async (patch: Partial<typeof before>) => {
    const result = await set({ ...before, ...patch })
    if (result.error) return tellProblem(result.error)
    toast.success(`“${wording}” is said anew.`, { action: { label: 'Undo', onClick: () => void set(before) } })
  }
  return (
    <tr className="border-b border-line [&>td]:py-1.5 [&>td]:pr-3">
      <td>
        {wording}
        {!isSaid && <span className="block text-xs text-quiet">nobody has said yet</span>}
      </td>
      <td className="figures !pr-8 text-right">
        <span className="sr-only">{plural(items, 'item')}</span>
        <span aria-hidden>{items}</span>
      </td>
      <td>
        <Choice
          label={`What “${wording}” covers`}
          className="w-52"
          value={reach}
          disabled={!mayEdit}
          onChange={next => change({ reach: next })}
          options={optionsOf(['all', 'projects', 'none'] as const, REACH_WORDS)}
        />
      </td>
      <td>
        {reach === 'projects' && (
          <ManyChoice
            label={`Projects that “${wording}” covers`}
            className="w-72"
            none="none yet: choose them"
            values={projectIds.map(String)}
            disabled={!mayEdit}
            onChange={ids => change({ projectIds: ids.map(Number) })}
            options={projects.map(p => ({ value: String(p.id), text: `${p.code} ${p.title}` }))}
          />
        )}
      </td>
      <td className="!pr-0">
        {reach !== 'none' && (
          <input
            type="date"
            aria-label={`Last day of “${wording}”`}
            className={`${CONTROL} w-40`}
            value={until ?? ''}
            disabled={!mayEdit}
            onChange={event => change({ until: event.target.value || null })}
          />
        )}
      </td>
    </tr>
  )
}
