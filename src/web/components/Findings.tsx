import { CircleAlert, Info, TriangleAlert } from 'lucide-react'
import type { ReactNode } from 'react'
import type { FindingView } from '#shared/contracts/items.contract'
import { FIX_WORDS } from '#shared/fix-words'
import { plural, SEVERITY_WORDS } from '../words/states'
import { Button } from './controls/Button'

const ICONS = { mustFix: CircleAlert, shouldFix: TriangleAlert, note: Info }

interface Props {
  list: readonly FindingView[]
  /** Fixes one finding; without it none is offered. */
  onFix?: (finding: FindingView) => void
  /** What else can be done about a finding. */
  more?: (finding: FindingView) => ReactNode
}

/** Each finding in words, the worst first, its severity by shape and word; with its pictures, and its fix where one can be computed. */
export function Findings({ list, onFix, more }: Props) {
  const order = ['mustFix', 'shouldFix', 'note']
  const sorted = [...list].sort((a, b) => order.indexOf(a.severity) - order.indexOf(b.severity))
  return (
    <ul className="flex flex-col gap-3">
      {sorted.map((f, i) => {
        const Icon = ICONS[f.severity]
        return (
          <li key={i} className="flex gap-2">
            <Icon aria-hidden className="mt-0.5 size-4 shrink-0" strokeWidth={f.severity === 'mustFix' ? 2.5 : 1.75} />
            <div className="min-w-0 flex-1">
              <span className="mr-1.5 text-xs text-quiet">{SEVERITY_WORDS[f.severity]}</span>
              {f.subject && <span className="figures mr-1.5 text-xs break-all">{f.subject.split('/').pop()}</span>}
              <span className={f.severity === 'mustFix' ? 'font-medium' : ''}>{f.message}</span>
              <EvidencePictures finding={f} />
              {onFix && f.fix && (
                <p className="mt-1.5">
                  <Button onClick={() => onFix(f)}>{FIX_WORDS[f.fix].todo}</Button>
                </p>
              )}
              {more?.(f)}
            </div>
          </li>
        )
      })}
    </ul>
  )
}

function EvidencePictures({ finding: { before, after, message } }: { finding: FindingView }) {
  if (!before) return null
  return (
    <div className="mt-1.5 grid max-w-[31rem] grid-cols-2 gap-2">
      <figure>
        <img src={before} alt={message} loading="lazy" className="aspect-[3/2] w-full bg-mount object-cover" />
        {after && <figcaption className="text-2xs text-quiet">as it is</figcaption>}
      </figure>
      {after && (
        <figure>
          <img src={after} alt="as it would be" loading="lazy" className="aspect-[3/2] w-full bg-mount object-cover" />
          <figcaption className="text-2xs text-quiet">fixed</figcaption>
        </figure>
      )}
    </div>
  )
}

/** How many there are of each severity that matters, in the width of a table cell. */
export function FindingCounts({ list }: { list: readonly FindingView[] }) {
  const must = list.filter(f => f.severity === 'mustFix').length
  const should = list.filter(f => f.severity === 'shouldFix').length
  const notes = list.length - must - should
  if (must + should === 0) return <span className="text-quiet">{notes === 0 ? 'none' : plural(notes, 'note')}</span>
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
