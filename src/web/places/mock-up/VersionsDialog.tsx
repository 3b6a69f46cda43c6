import { format } from 'date-fns'
import { useState } from 'react'
import { toast } from 'sonner'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CONTROL } from '../../components/controls/control-look'
import { Modal } from '../../components/dialogs/Modal'
import { useKeepMockUpVersionMutation, useListMockUpVersionsQuery, useTakeMockUpVersionMutation } from '../../state/api'
import type { MockUpSession } from './state/mock-up-session'

/** States of the mock-up that were kept, to keep another, or to go back to one. */
export function VersionsDialog({
  mockUpId,
  session,
  onClose,
}: {
  mockUpId: number
  session: MockUpSession
  onClose: () => void
}) {
  const { data: versions } = useListMockUpVersionsQuery({ id: mockUpId })
  const [keep, { isLoading }] = useKeepMockUpVersionMutation()
  const [take] = useTakeMockUpVersionMutation()
  const [name, setName] = useState('')
  const keepNow = async () => {
    await session.flush()
    const result = await keep({ id: mockUpId, name })
    if (result.error) tellProblem(result.error)
    else setName('')
  }
  const goBack = async (version: number, called: string) => {
    await session.flush()
    // Under another page's name: what comes back is taken in like anybody's change.
    const result = await take({ id: mockUpId, version, page: 'versions' })
    if (result.error) return tellProblem(result.error)
    await session.catchUp(result.data.revision)
    toast.success(`It is as it was in ${called}. What was here before is kept in its history.`)
    onClose()
  }
  return (
    <Modal title="Versions" width="medium" onClose={onClose}>
      <form
        className="mb-4 flex gap-2"
        onSubmit={event => {
          event.preventDefault()
          void keepNow()
        }}
      >
        <input
          aria-label="Name of the version"
          placeholder="Keep it as it is now, called"
          value={name}
          onChange={event => setName(event.target.value)}
          className={`${CONTROL} min-w-0 flex-1`}
        />
        <Button type="submit" variant="next" disabled={isLoading || name.trim() === ''}>
          Keep
        </Button>
      </form>
      {versions?.length === 0 && (
        <p className="text-quiet">None is kept yet. Every change is saved as it is made; a version is a state to come back to.</p>
      )}
      <ul className="border-t border-line">
        {versions?.map(v => (
          <li key={v.id} className="flex items-center gap-3 border-b border-line py-1.5">
            <span className="min-w-0 flex-1">
              <span className="block truncate font-medium">{v.name}</span>
              <span className="block text-xs text-quiet">
                {v.person}, {format(new Date(v.at), 'd MMM yyyy HH:mm')}
              </span>
            </span>
            <Button variant="bare" onClick={() => void goBack(v.id, v.name)}>
              Go back to it
            </Button>
          </li>
        ))}
      </ul>
    </Modal>
  )
}
