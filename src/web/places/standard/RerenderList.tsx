import { Pause, Play, X } from 'lucide-react'
import type { RigList } from '#shared/contracts/rigs.contract'
import { tellProblem } from '../../components/bulk-words'
import { Progress } from '../../components/Notice'
import { useSetRerenderStateMutation } from '../../state/api'

const STATE_SENTENCES = { running: 'rendering', paused: 'paused', cancelled: 'cancelled', done: 'done' } as const
const ROUND = 'flex size-7 items-center justify-center rounded-sm hover:bg-mount'

/** Background runs: how far they are, and the way to hold or stop them. Ended ones stay for a look back. */
export function RerenderList({ list }: { list: RigList }) {
  const [setState] = useSetRerenderStateMutation()
  const change = async (id: number, state: 'running' | 'paused' | 'cancelled') => {
    const result = await setState({ id, state })
    if (result.error) tellProblem(result.error)
  }
  return (
    <section aria-label="Background runs">
      <h2 className="mb-2 text-section">Rendering anew</h2>
      <ul className="flex flex-col gap-3">
        {list.rerenders.map(({ id, title, state, total, done, failed, by }) => {
          const isOpen = state === 'running' || state === 'paused'
          return (
            <li key={id} data-rerender={id}>
              <div className="flex items-start gap-1">
                <p className="min-w-0 flex-1 text-xs">
                  <span className="block truncate text-sm" title={title}>
                    {title}
                  </span>
                  <span className="text-quiet">
                    {STATE_SENTENCES[state]}, <span className="figures">{done}</span> of <span className="figures">{total}</span>
                    {failed > 0 && `, ${failed} failed`}, {by}
                  </span>
                </p>
                {list.mayEdit && isOpen && (
                  <>
                    {state === 'running' ? (
                      <button type="button" className={ROUND} aria-label={`Pause ${title}`} onClick={() => change(id, 'paused')}>
                        <Pause aria-hidden className="size-4" />
                      </button>
                    ) : (
                      <button
                        type="button"
                        className={ROUND}
                        aria-label={`Go on with ${title}`}
                        onClick={() => change(id, 'running')}
                      >
                        <Play aria-hidden className="size-4" />
                      </button>
                    )}
                    <button
                      type="button"
                      className={ROUND}
                      aria-label={`Cancel ${title}`}
                      onClick={() => change(id, 'cancelled')}
                    >
                      <X aria-hidden className="size-4" />
                    </button>
                  </>
                )}
              </div>
              {isOpen && <Progress share={total > 0 ? (done + failed) / total : 1} label={title} />}
            </li>
          )
        })}
      </ul>
    </section>
  )
}
