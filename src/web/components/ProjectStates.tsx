import { format } from 'date-fns'
import { Link } from 'react-router'
import type { Revision } from '#shared/contracts/decisions.contract'

const STATE_WORDS: Record<Revision['projects'][number]['state'], string> = {
  open: 'has to decide',
  stays: 'stays',
  upToDate: 'has it',
  frozen: 'frozen',
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
