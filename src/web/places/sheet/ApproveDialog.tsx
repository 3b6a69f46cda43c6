import { useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Sheet } from '#shared/contracts/items.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { TextField } from '../../components/controls/Field'
import { Modal } from '../../components/dialogs/Modal'
import { useStandBesideMutation } from '../../state/api'
import { plural } from '../../words/states'

interface Props {
  sheet: Sheet
  onReplace: () => void
  onClose: () => void
}

/** What becomes of the version before: the new one takes its place, or stands beside it as an item of its own. */
export function ApproveDialog({ sheet, onReplace, onClose }: Props) {
  const [isBeside, setBeside] = useState(false)
  const [name, setName] = useState(sheet.name)
  const [stand, { isLoading }] = useStandBesideMutation()
  const navigate = useNavigate()
  const before = sheet.versions.find(v => v.isApproved)
  const asked = sheet.projects.length
  const make = async () => {
    const result = await stand({ id: sheet.id, name: name.trim() })
    if (!result.data) return tellProblem(result.error)
    toast.success(`${result.data.code} is made; ${sheet.code} is as it was approved.`)
    onClose()
    navigate(`/items/${result.data.code}`)
  }
  return (
    <Modal title={`Approve version ${sheet.version.number}`} width="large" onClose={onClose}>
      <fieldset className="flex flex-col gap-3">
        <legend className="mb-2">Version {before?.number} is approved now. What becomes of it?</legend>
        <label className="flex gap-2.5">
          <input type="radio" name="becomes" checked={!isBeside} onChange={() => setBeside(false)} className="mt-1 accent-ink" />
          <span>
            <span className="font-medium">The new one takes its place.</span>
            <span className="block text-xs text-quiet">
              {asked === 0
                ? 'No project pins it.'
                : `${plural(asked, 'project')} that ${asked === 1 ? 'pins' : 'pin'} it will be asked, each with both versions side by side.`}
            </span>
          </span>
        </label>
        <label className="flex gap-2.5">
          <input type="radio" name="becomes" checked={isBeside} onChange={() => setBeside(true)} className="mt-1 accent-ink" />
          <span>
            <span className="font-medium">It stays, and the new one stands beside it.</span>
            <span className="block text-xs text-quiet">
              As an item of its own with a code of its own, to be approved there. No project is asked.
            </span>
          </span>
        </label>
        {isBeside && <TextField label="Name of the new item" value={name} onChange={event => setName(event.target.value)} />}
      </fieldset>
      <div className="mt-5 flex justify-end gap-2">
        <Button variant="bare" onClick={onClose}>
          Decide later
        </Button>
        {isBeside ? (
          <Button
            variant="next"
            disabled={isLoading || name.trim() === '' || name.trim() === sheet.name}
            title={name.trim() === sheet.name ? 'Give it a name of its own' : undefined}
            onClick={make}
          >
            Make the item
          </Button>
        ) : (
          <Button
            variant="next"
            onClick={() => {
              onReplace()
              onClose()
            }}
          >
            Approve
          </Button>
        )}
      </div>
    </Modal>
  )
}
