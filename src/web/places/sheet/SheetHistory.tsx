import { format } from 'date-fns'
import { Link, useLocation } from 'react-router'
import type { Sheet } from '#shared/contracts/items.contract'
import { verbWord } from '../../words/states'

export function SheetHistory({ sheet }: { sheet: Sheet }) {
  const location = useLocation()
  return (
    <section className="grid grid-cols-2 gap-8">
      <div>
        <h2 className="mb-2 text-section">Versions</h2>
        <ul className="border-t border-line">
          {sheet.versions.map(v => (
            <li key={v.id} className="border-b border-line py-1.5">
              <Link
                to={`/items/${sheet.code}?version=${v.number}`}
                state={location.state}
                replace
                className={v.id === sheet.version.id ? 'font-medium' : 'hover:underline'}
              >
                Version {v.number}
              </Link>
              {v.isApproved && <span className="ml-2 text-xs text-quiet">approved</span>}
              {v.id !== sheet.version.id && (
                <Link
                  to={`/compare?of=${sheet.code}.v${v.number},${sheet.code}.v${sheet.version.number}`}
                  className="ml-2 text-xs text-quiet underline hover:text-ink"
                >
                  compare
                </Link>
              )}
              <span className="block text-xs text-quiet">
                {v.author}, {format(new Date(v.createdAt), 'd MMM yyyy HH:mm')}
                {v.note && `. ${v.note}`}
              </span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h2 className="mb-2 text-section">What happened</h2>
        <ul className="border-t border-line">
          {sheet.events.map(e => (
            <li key={e.id} className="border-b border-line py-1.5">
              {e.person} {verbWord(e.verb)}
              <span className="block text-xs text-quiet">
                {format(new Date(e.at), 'd MMM yyyy HH:mm')}
                {describeChange(e.before, e.after)}
              </span>
            </li>
          ))}
        </ul>
      </div>
    </section>
  )
}

/** "state: draft to approved" of a before and an after. */
function describeChange(before: unknown, after: unknown): string {
  if (typeof before !== 'object' || typeof after !== 'object' || !before || !after) return ''
  const old = before as Record<string, unknown>
  const changed = Object.entries(after).filter(([key, value]) => key in old && old[key] !== value)
  return changed.map(([key, value]) => `, ${key} ${old[key]} to ${value}`).join('')
}
