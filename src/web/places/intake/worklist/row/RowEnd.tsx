import { Link } from 'react-router'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { Button } from '../../../../components/controls/Button'
import { useWorklist } from '../state/worklist-context'

/** What can be done with the row as a whole, or what became of it. */
export function RowEnd({ item }: { item: BatchItem }) {
  const { actions, location, mayEdit } = useWorklist()
  const change = (patch: Parameters<typeof actions.onChange>[1]) => actions.onChange(item.id, patch)
  return (
    <div className="flex justify-end">
      {item.state === 'accepted' && item.itemCode ? (
        <Link to={`/items/${item.itemCode}`} state={{ behind: location }} className="figures text-xs underline">
          {item.itemCode}
        </Link>
      ) : !mayEdit ? null : item.state === 'setAside' ? (
        <Button variant="bare" onClick={() => change({ setAside: false })}>
          Take back
        </Button>
      ) : item.state === 'failed' ? (
        <Button variant="bare" onClick={() => change({ measureAgain: true })}>
          Try again
        </Button>
      ) : item.state === 'ready' ? (
        <Button variant="bare" onClick={() => change({ setAside: true })}>
          Set aside
        </Button>
      ) : null}
    </div>
  )
}
