import { Link, useLocation } from 'react-router'
import { Panel } from '../../components/Page'
import { ProjectStates } from '../../components/ProjectStates'
import { useListRevisionsQuery } from '../../state/api'
import { plural } from '../../words/states'

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
