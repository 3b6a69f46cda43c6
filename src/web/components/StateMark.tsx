import type { ItemState } from '#shared/contracts/chip.contract'
import { STATE_WORDS } from '../words/states'

/** State by shape, with its word for whoever cannot see the shape: open, half, whole, crossed out. */
export function StateMark({ state, withWord = false }: { state: ItemState; withWord?: boolean }) {
  return (
    <span className="inline-flex items-center gap-1" title={STATE_WORDS[state]}>
      <svg viewBox="0 0 12 12" className="size-2.5 shrink-0" aria-hidden>
        <rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor" strokeWidth="1.5" />
        {state === 'inReview' && <path d="M1.5 10.5v-9l9 9z" fill="currentColor" />}
        {state === 'approved' && <rect x="1.5" y="1.5" width="9" height="9" fill="currentColor" />}
        {state === 'withdrawn' && <path d="m1.5 1.5 9 9m0-9-9 9" stroke="currentColor" strokeWidth="1.5" />}
      </svg>
      {withWord ? <span>{STATE_WORDS[state]}</span> : <span className="sr-only">{STATE_WORDS[state]}</span>}
    </span>
  )
}
