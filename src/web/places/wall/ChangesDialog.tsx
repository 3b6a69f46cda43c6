import { formatDistanceToNow } from 'date-fns'
import type { BulkAction, BulkHistory } from '#shared/contracts/bulk.contract'
import { factWord } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { categoryTrail } from '../../components/CategoryPicker'
import { Button } from '../../components/controls/Button'
import { Modal } from '../../components/dialogs/Modal'
import { useListBulkQuery, useListCategoriesQuery, useUndoBulkMutation } from '../../state/api'
import { plural, STATE_WORDS } from '../../words/states'

interface Props {
  onClose: () => void
  /** Told of the run that puts one back. */
  onStarted: (id: number) => void
}

/** Changes of many items that one has made of late, each with its undoing, long after it was offered. */
export function ChangesDialog({ onClose, onStarted }: Props) {
  const { data: runs, isLoading } = useListBulkQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: categories = [] } = useListCategoriesQuery()
  const [undoBulk] = useUndoBulkMutation()
  const titleOf = (path: string) => categoryTrail(categories, path).at(-1)?.title ?? path
  const undo = async (id: number) => {
    const result = await undoBulk({ id })
    if (!result.data) return tellProblem(result.error)
    onStarted(result.data.id)
    onClose()
  }
  return (
    <Modal title="Changes of many items" width="large" onClose={onClose}>
      {runs?.length === 0 && <p className="text-quiet">You have not changed many items at once yet.</p>}
      {isLoading && <p className="text-quiet">Looking…</p>}
      <ul className={runs && runs.length > 0 ? 'border-t border-line' : ''}>
        {runs?.map(run => (
          <li key={run.id} className="flex min-h-11 items-center gap-4 border-b border-line py-1.5">
            <div className="min-w-0 flex-1">
              <p className="truncate">{sayAction(run.action, titleOf)}</p>
              <p className="text-xs text-quiet">
                {sayOutcome(run)}, {formatDistanceToNow(new Date(run.createdAt), { addSuffix: true })}
              </p>
            </div>
            {run.mayUndo ? (
              <Button onClick={() => undo(run.id)}>Put back</Button>
            ) : (
              run.undoneBy !== null && <span className="text-xs text-quiet">put back</span>
            )}
          </li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Modal>
  )
}

const sayOutcome = ({ state, changed, refusedCount, done, total }: BulkHistory[number]): string =>
  [
    state === 'running' ? `${done} of ${total} seen to` : plural(changed, 'item'),
    ...(state === 'stopped' ? ['stopped'] : []),
    ...(refusedCount > 0 ? [`${refusedCount} refused`] : []),
  ].join(', ')

/** What was done, as it is said in a list. */
function sayAction(action: BulkAction, titleOf: (path: string) => string): string {
  switch (action.do) {
    case 'state':
      return `Set to ${STATE_WORDS[action.state]}`
    case 'category':
      return `Moved to ${titleOf(action.category)}`
    case 'library':
      return 'Moved into another library'
    case 'fact':
      return action.value ? `Given the ${factWord(action.fact)} ${action.value}` : `Without ${factWord(action.fact)}`
    case 'words':
      return [
        ...(action.add.length > 0 ? [`${action.add.join(', ')} put in`] : []),
        ...(action.remove.length > 0 ? [`${action.remove.join(', ')} taken out`] : []),
      ].join('; ')
    case 'propose':
      return action.list === 'tags' ? 'Given the tags that were proposed' : 'Given the rooms and uses that were proposed'
    case 'names':
      return 'Named by the pattern of their category'
    case 'replace':
      return `“${action.find}” replaced by “${action.put}” in their names`
    case 'finals':
      return 'Final pictures ordered'
    case 'dot':
      return action.on ? 'A dot put on' : 'A dot taken off'
    case 'pin':
      return 'Pinned in a project'
    default:
      return action satisfies never
  }
}
