import type { BatchItem } from '#shared/contracts/intake.contract'
import { factWord } from '#shared/units'
import { DraftField } from '../../../../components/controls/DraftField'
import { offWords } from '../../../../words/standard'
import { KIND_WORDS, roleWord } from '../../../../words/states'
import { useFrozen, useWorklist } from '../state/worklist-context'

/** What the item is called, what it consists of, and what of it is off the house's standard. */
export function RowName({ item }: { item: BatchItem }) {
  const { actions } = useWorklist()
  const frozen = useFrozen(item)
  const isAccepted = item.state === 'accepted'
  const offRange = isAccepted ? [] : offWords({ ...item, missingFacts: [], proposedTags: null })
  const rename = (name: string) => actions.onChange(item.id, { name })
  const words = [...item.tags, ...item.uses]
  return (
    <div className="min-w-0">
      {frozen ? (
        <p className="truncate px-2 font-medium">{item.name}</p>
      ) : (
        <DraftField
          label={`Name of ${item.name}`}
          value={item.name}
          className="w-full font-medium"
          onSettle={name => name && rename(name)}
        />
      )}
      <p className="mt-0.5 truncate px-2 text-xs text-quiet">
        {KIND_WORDS[item.kind].one}
        {item.files.length > 1
          ? `, ${item.files.length} files`
          : item.files[0] && item.files[0].role !== item.kind
            ? `, ${roleWord(item.files[0].role)}`
            : ''}
        {!isAccepted && item.missingFacts.length > 0 && (
          <span className="text-ink">, without {item.missingFacts.map(factWord).join(', ')}</span>
        )}
        {words.length > 0 && <span title={`It will be found by: ${words.join(', ')}`}>, tagged {words.join(', ')}</span>}
        {item.sourceFolder && <span title={item.sourceFolder}>, from {item.sourceFolder}</span>}
      </p>
      {offRange.length > 0 && (
        <p className="truncate px-2 text-xs" title={offRange.join('; ')}>
          {offRange.join('; ')}
        </p>
      )}
      {!frozen && item.proposedName !== null && (
        <button
          type="button"
          className="max-w-full truncate px-2 text-left text-xs hover:underline"
          onClick={() => rename(item.proposedName ?? item.name)}
        >
          by the pattern: <strong className="font-medium">{item.proposedName}</strong>
        </button>
      )}
    </div>
  )
}
