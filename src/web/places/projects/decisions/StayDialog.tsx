import { useState } from 'react'
import { Button } from '../../../components/controls/Button'
import { CONTROL } from '../../../components/controls/control-look'
import { TextField } from '../../../components/controls/Field'
import { Modal } from '../../../components/dialogs/Modal'
import { plural } from '../../../words/states'

interface Props {
  count: number
  onStay: (given: { until: string | null; why: string }) => void
  onClose: () => void
}

/** Why it stays as it is, and until when. */
export function StayDialog({ count, onStay, onClose }: Props) {
  const [why, setWhy] = useState('')
  const [until, setUntil] = useState('')
  return (
    <Modal title={`Leave ${plural(count, 'item')} as pinned`} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={event => {
          event.preventDefault()
          if (why.trim() !== '') onStay({ why: why.trim(), until: until === '' ? null : until })
        }}
      >
        <TextField label="Why" hint="The lead and your colleagues read it" value={why} onChange={e => setWhy(e.target.value)} />
        <label className="flex flex-col gap-1">
          <span>Until</span>
          <input
            type="date"
            value={until}
            onChange={event => setUntil(event.target.value)}
            className={`${CONTROL} figures w-40`}
          />
          <span className="text-xs text-quiet">Asked again after that day; without one, with the next version.</span>
        </label>
        <div className="flex justify-end gap-2">
          <Button variant="bare" onClick={onClose}>
            Decide later
          </Button>
          <Button type="submit" variant="next" disabled={why.trim() === ''}>
            Leave as pinned
          </Button>
        </div>
      </form>
    </Modal>
  )
}
