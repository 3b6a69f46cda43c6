import { format } from 'date-fns'
import { Link, useLocation } from 'react-router'
import type { Revision } from '#shared/contracts/decisions.contract'
import { Panel } from '../../components/Page'
import { useListRevisionsQuery } from '../../state/api'
import { plural } from '../../words/states'

const STATE_WORDS: Record<Revision['projects'][number]['state'], string> = {
  open: 'has to decide',
  stays: 'stays',
  upToDate: 'has it',
  frozen: 'frozen',
}

/** Newer versions on their way into the projects: who has them, who stays, who still has to decide. */
export function RevisionsPanel() {
  const { data: revisions = [] } = useListRevisionsQuery({})
  const location = useLocation()
  if (revisions.length === 0) return null
  const open = revisions.reduce((sum, r) => sum + r.projects.filter(p => p.state === 'open').length, 0)
  return (
    <Panel
      title="Newer versions on their way"
      actions={<span className="text-quiet">{open === 0 ? 'all decided' : `${plural(open, 'decision')} open`}</span>}
      label="Newer versions on their way"
    >
      <ul>
        {revisions.map(r => (
          <li key={r.itemId} className="grid grid-cols-[16rem_minmax(0,1fr)] items-start gap-4 border-t border-line py-2">
            <span className="min-w-0">
              <Link to={`/items/${r.code}`} state={{ behind: location }} className="block truncate font-medium hover:underline">
                {r.name}
              </Link>
              <span className="figures block text-xs text-quiet">
                {r.code} {r.isWithdrawn ? 'withdrawn' : `version ${r.approvedNumber}`}
              </span>
            </span>
            <ProjectStates revision={r} />
          </li>
        ))}
      </ul>
    </Panel>
  )
}

/** Of one item: each project with its version and what it does about the newer one. */
export function ProjectStates({ revision }: { revision: Revision }) {
  return (
    <ul className="flex flex-wrap gap-x-6 gap-y-1.5">
      {revision.projects.map(p => (
        <li key={p.id} className="min-w-40">
          <Link
            to={p.state === 'open' || p.state === 'stays' ? `/projects/${p.id}/decisions` : `/projects/${p.id}`}
            className="flex items-baseline gap-2 hover:underline"
            title={p.title}
          >
            <span className="figures text-xs">{p.code}</span>
            <span className={p.state === 'open' ? 'font-medium' : 'text-quiet'}>{STATE_WORDS[p.state]}</span>
            <span className="figures text-xs text-quiet">v{p.versionNumber}</span>
          </Link>
          {p.state === 'open' && p.people.length > 0 && <span className="block text-xs text-quiet">{p.people.join(', ')}</span>}
          {p.state === 'stays' && (
            <span className="block max-w-64 truncate text-xs text-quiet" title={p.why}>
              {p.until ? `until ${format(new Date(p.until), 'd MMM yyyy')}: ` : ''}
              {p.why}
            </span>
          )}
        </li>
      ))}
    </ul>
  )
}
