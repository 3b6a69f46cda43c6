import { useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { NO_SHIFT } from '#core/material/shift'
import type { Assignment, ItemRef } from '#core/mock-up/scene/scene'
import type { MockUpItem, ProposeShift } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../../components/bulk-words'
import { ChoiceField } from '../../../components/controls/Choice'
import { TextField } from '../../../components/controls/Field'
import { FormDialog } from '../../../components/dialogs/FormDialog'
import { useGetSessionQuery, useProposeShiftMutation } from '../../../state/api'

interface Props {
  mockUpId: number
  worn: Assignment
  item: MockUpItem & { id: number }
  material: OpenPbrMaterial | undefined
  /** It is in the library now, and can be worn in place of what was adjusted. */
  onMade: (ref: ItemRef) => void
  onClose: () => void
}

/** A material as it was adjusted here, for the library. */
export function ProposeDialog({ mockUpId, worn, item, material, onMade, onClose }: Props) {
  const { data: session } = useGetSessionQuery()
  const [propose, { isLoading }] = useProposeShiftMutation()
  const navigate = useNavigate()
  const isLead = session?.person?.role === 'lead'
  const [as, setAs] = useState<'version' | 'item'>('item')
  const [name, setName] = useState(`${item.name}, adjusted`)
  // What a map gives cannot be one value in the library as well.
  const mapped = Object.keys(worn.override).filter(p => material && p in material.textures)
  const send = async () => {
    const constants = Object.fromEntries(Object.entries(worn.override).filter(([p]) => !mapped.includes(p)))
    const result = await propose({
      ...{ id: mockUpId, itemId: item.id, version: worn.material.version, shift: worn.shift ?? NO_SHIFT, name },
      constants: constants as ProposeShift['constants'],
      as: isLead ? as : 'intake',
    })
    if (result.error) return tellProblem(result.error)
    const { made, batchId } = result.data
    if (made) {
      const { code, version, inputKey } = made
      onMade({ code, version, inputKey })
      toast.success(`${code}, version ${version} is in the library, to be approved; it is worn here now.`, {
        action: { label: 'Open it', onClick: () => navigate(`/items/${code}`) },
      })
    } else {
      toast.success('It is in Intake now, for a lead to decide about; here it stays as it was adjusted.', {
        action: { label: 'Open it', onClick: () => navigate(`/intake/${batchId}`) },
      })
    }
    onClose()
  }
  return (
    <FormDialog
      title={`Propose ${item.name} as it is here`}
      action={isLoading ? 'Working out its maps' : isLead ? 'Put it into the library' : 'Send it to Intake'}
      disabled={isLoading || name.trim() === ''}
      onClose={onClose}
      onSubmit={event => {
        event.preventDefault()
        void send()
      }}
    >
      {isLead && (
        <ChoiceField
          label="As"
          value={as}
          onChange={setAs}
          options={[
            { value: 'item', text: 'an item of its own' },
            { value: 'version', text: `the next version of ${item.ref.code}` },
          ]}
        />
      )}
      {(!isLead || as === 'item') && (
        <TextField label="Name" value={name} onChange={event => setName(event.target.value)} maxLength={120} />
      )}
      <p className="text-xs text-quiet">
        {isLead && as === 'version'
          ? 'Its maps are worked out anew at full size. Projects stay with what they have until the version is approved and they decide.'
          : 'Its maps are worked out anew at full size; the item that it comes from stays as it is.'}
        {mapped.length > 0 && ' What is one value here and has a map in the library keeps its map.'}
      </p>
    </FormDialog>
  )
}
