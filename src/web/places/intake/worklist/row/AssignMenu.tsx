import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import { useState } from 'react'
import type { MaterialChoice } from '#shared/contracts/intake.contract'
import { tellProblem } from '../../../../components/bulk-words'
import { CheckBox } from '../../../../components/controls/CheckBox'
import { Skeleton } from '../../../../components/Notice'
import { PreviewFrame } from '../../../../components/PreviewFrame'
import { useAssignMaterialMutation, useProposeMaterialsQuery } from '../../../../state/api'

const REASON_WORDS: Record<MaterialChoice['reason'], string> = {
  name: 'named alike',
  category: 'of that kind',
  model: 'goes with the model',
  look: 'of that colour',
  any: '',
}

interface Props {
  batchId: number
  itemId: number
  part: string
  /** Every part of the model without a material. */
  bare: readonly string[]
}

/** House materials for one part, the likeliest first. */
export function AssignMenu(props: Props) {
  return (
    <Popover>
      <PopoverButton className="inline-flex h-8 items-center rounded-sm border border-edge bg-mount px-3 hover:border-ink">
        Assign a house material
      </PopoverButton>
      <PopoverPanel anchor="bottom start" className="z-50 mt-1 w-96 rounded-sm border border-line bg-sheet p-2 shadow-lg">
        {({ close }) => <Choices {...props} onDone={close} />}
      </PopoverPanel>
    </Popover>
  )
}

function Choices({ batchId, itemId, part, bare, onDone }: Props & { onDone: () => void }) {
  const { data: choices } = useProposeMaterialsQuery({ batchId, itemId, part })
  const [assign, { isLoading }] = useAssignMaterialMutation()
  const [all, setAll] = useState(false)
  const choose = async (code: string) => {
    const result = await assign({ batchId, itemId, parts: all ? [...bare] : [part], code })
    if (result.error) tellProblem(result.error)
    else onDone()
  }
  if (!choices) return <Skeleton className="h-40" />
  if (choices.length === 0) return <p className="p-2 text-quiet">The library has no material yet.</p>
  return (
    <>
      {bare.length > 1 && (
        <CheckBox label={`All ${bare.length} parts without a material`} className="mb-2 px-1" checked={all} onChange={setAll} />
      )}
      <ul className="grid max-h-80 grid-cols-3 gap-2 overflow-auto">
        {choices.map(choice => (
          <li key={choice.code}>
            <button
              type="button"
              disabled={isLoading}
              onClick={() => choose(choice.code)}
              className="w-full p-1 text-left hover:bg-mount focus-visible:bg-mount"
            >
              <PreviewFrame url={choice.preview} alt="" />
              <span className="block truncate text-xs font-medium">{choice.name}</span>
              <span className="block truncate text-2xs text-quiet">
                <span className="figures">{choice.code}</span>
              </span>
              <span className="block truncate text-2xs">{REASON_WORDS[choice.reason] || '\u00a0'}</span>
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}
