import { CircleAlert, Info, TriangleAlert } from 'lucide-react'
import type { FindingView } from '#shared/contracts/items.contract'
import { SEVERITY_WORDS } from '../words/states'

const ICONS = { mustFix: CircleAlert, shouldFix: TriangleAlert, note: Info }

/** Each finding in words, the worst first, its severity by shape and word. */
export function Findings({ list }: { list: readonly FindingView[] }) {
  const order = ['mustFix', 'shouldFix', 'note']
  const sorted = [...list].sort((a, b) => order.indexOf(a.severity) - order.indexOf(b.severity))
  return (
    <ul className="flex flex-col gap-2">
      {sorted.map((f, i) => {
        const Icon = ICONS[f.severity]
        return (
          <li key={i} className="flex gap-2">
            <Icon aria-hidden className="mt-0.5 size-4 shrink-0" strokeWidth={f.severity === 'mustFix' ? 2.5 : 1.75} />
            <div className="min-w-0">
              <span className="mr-1.5 text-xs text-quiet">{SEVERITY_WORDS[f.severity]}</span>
              {f.subject && <span className="figures mr-1.5 text-xs break-all">{f.subject.split('/').pop()}</span>}
              <span className={f.severity === 'mustFix' ? 'font-medium' : ''}>{f.message}</span>
            </div>
          </li>
        )
      })}
    </ul>
  )
}

/** How many there are of each severity that matters, in the width of a table cell. */
export function FindingCounts({ list }: { list: readonly FindingView[] }) {
  const must = list.filter(f => f.severity === 'mustFix').length
  const should = list.filter(f => f.severity === 'shouldFix').length
  if (must + should === 0) return <span className="text-quiet">none</span>
  return (
    <span className="inline-flex items-center gap-2">
      {must > 0 && (
        <span className="inline-flex items-center gap-1 font-semibold">
          <CircleAlert aria-hidden className="size-3.5" strokeWidth={2.5} />
          {must}
          <span className="sr-only">must fix</span>
        </span>
      )}
      {should > 0 && (
        <span className="inline-flex items-center gap-1">
          <TriangleAlert aria-hidden className="size-3.5" />
          {should}
          <span className="sr-only">should fix</span>
        </span>
      )}
    </span>
  )
}
