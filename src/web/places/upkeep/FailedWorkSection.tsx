import { formatDistanceToNow } from 'date-fns'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { useDismissFailedWorkMutation, useListFailedWorkQuery, useTryFailedWorkMutation } from '../../state/api'
import { plural } from '../../words/states'

/** Work that broke off each time it was tried: what it was for, and another try. Nothing where all went well. */
export function FailedWorkSection({ mayEdit }: { mayEdit: boolean }) {
  const { data: failed = [] } = useListFailedWorkQuery()
  const [tryAgain, { isLoading: isTrying }] = useTryFailedWorkMutation()
  const [dismiss] = useDismissFailedWorkMutation()
  if (failed.length === 0) return null
  const again = async (ids: number[]) => {
    const result = await tryAgain({ ids })
    if (result.error) tellProblem(result.error)
    else toast(`${plural(result.data?.count ?? 0, 'piece')} of work in line again.`)
  }
  return (
    <section>
      <div className="mb-3 flex items-center gap-4">
        <h2 className="text-section">Work that broke off ({failed.length})</h2>
        {mayEdit && (
          <Button variant="next" className="ml-auto" disabled={isTrying} onClick={() => again(failed.map(f => f.id))}>
            Try all again
          </Button>
        )}
      </div>
      <ul className="border-t border-line">
        {failed.map(f => (
          <li key={f.id} className="flex min-h-10 items-center gap-4 border-b border-line">
            <span className="min-w-0 flex-1 truncate">
              {f.address ? (
                <Link to={f.address} className="hover:underline">
                  {f.about}
                </Link>
              ) : (
                f.about
              )}
            </span>
            <span className="text-xs text-quiet">{formatDistanceToNow(new Date(f.at), { addSuffix: true })}</span>
            {mayEdit && (
              <span className="flex">
                <Button variant="bare" disabled={isTrying} onClick={() => again([f.id])}>
                  Try again
                </Button>
                <Button variant="bare" onClick={() => dismiss({ ids: [f.id] })}>
                  Leave it
                </Button>
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
