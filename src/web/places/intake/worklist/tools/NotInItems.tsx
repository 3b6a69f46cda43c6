import { claimedType, isModelType, isPhotometryType, isPictureType } from '#core/codecs/sniff'
import type { Batch, BatchItem, Regroup } from '#shared/contracts/intake.contract'
import { formatBytes } from '#shared/units'
import { Button } from '../../../../components/controls/Button'
import { PathText } from '../../../../components/PathText'
import { findHome } from '../state/worklist-view'

const REASONS: Record<string, string> = {
  document: 'A document; kept with the batch.',
  index: 'The delivery’s own list; read for places, tags and sizes.',
  indexOlder: 'Another list of the delivery that says less or is older; not read.',
  indexBackup: 'A copy of a list that was kept aside; not read.',
  byHand: 'Left out by hand.',
  noItem: 'Belongs to no item.',
  picture: 'A picture that belongs to no item.',
  unknownType: 'Of no type that is known here; kept with the batch.',
}

/** Of any other file no item can be made; it can still go with one. */
function mayBeItem(path: string): boolean {
  const type = claimedType(path)
  return isPictureType(type) || isModelType(type) || isPhotometryType(type) || type === 'hdr' || type === 'exr'
}

interface Props {
  batch: Batch
  items: readonly BatchItem[]
  /** The one row that is marked. */
  marked: BatchItem | null
  onRegroup: (wish: Regroup) => void
}

/** Files that are in no row, each with its reason; they can be brought into one, also into one that is accepted. */
export function NotInItems({ batch, items, marked, onRegroup }: Props) {
  if (batch.notInItems.length === 0) return null
  return (
    <section className="mt-8">
      <h2 className="mb-2 text-section">Not in any item ({batch.notInItemsCount})</h2>
      <ul className="border-t border-line">
        {batch.notInItems.map(f => {
          const into = marked ?? findHome(items, f.path)
          const take = (itemId: number | null) => onRegroup({ action: 'take', itemId, paths: [f.path] })
          return (
            <li
              key={f.path}
              className="grid min-h-9 grid-cols-[minmax(0,1fr)_minmax(0,1fr)_5rem_minmax(0,19rem)] items-center gap-4 border-b border-line py-0.5"
            >
              <PathText path={f.path} className="text-xs leading-5" />
              <span>
                {f.outcome === 'failed' ? (
                  <strong className="font-medium">{f.message}</strong>
                ) : (
                  (REASONS[f.code ?? ''] ?? f.message)
                )}
              </span>
              <span className="figures text-right text-xs text-quiet">{f.size > 0 ? formatBytes(f.size) : ''}</span>
              <span className="flex min-w-0 justify-end">
                {batch.mayEdit && f.outcome === 'leftOver' && (
                  <>
                    {into && (
                      <Button variant="bare" className="min-w-0" onClick={() => take(into.id)} title={describeHome(into)}>
                        <span className="truncate">Into {into.name}</span>
                      </Button>
                    )}
                    {mayBeItem(f.path) && !marked && (
                      <Button variant="bare" onClick={() => take(null)}>
                        A row of its own
                      </Button>
                    )}
                  </>
                )}
              </span>
            </li>
          )
        })}
      </ul>
      {batch.notInItemsCount > batch.notInItems.length && (
        <p className="py-2 text-quiet">and {batch.notInItemsCount - batch.notInItems.length} more, further down the alphabet.</p>
      )}
    </section>
  )
}

const describeHome = (item: BatchItem): string =>
  item.state === 'accepted' ? `Its next version: a row with this file beside those of ${item.itemCode}` : `The row ${item.name}`
