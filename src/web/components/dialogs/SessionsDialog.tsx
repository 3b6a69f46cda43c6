import { format } from 'date-fns'
import { toast } from 'sonner'
import type { OpenSession } from '#shared/contracts/people.contract'
import { useEndSessionMutation, useEndSessionsMutation, useListSessionsQuery } from '../../state/api'
import { plural } from '../../words/states'
import { tellProblem } from '../bulk-words'
import { Button } from '../controls/Button'
import { Skeleton, Trouble } from '../Notice'
import { Modal } from './Modal'

interface Props {
  person: { id: number; name: string }
  /** Whether it is the one who looks. */
  isOwn: boolean
  onClose: () => void
}

/** Where somebody is signed in, to be ended one by one or all at once. */
export function SessionsDialog({ person, isOwn, onClose }: Props) {
  const { data: sessions, error, refetch } = useListSessionsQuery({ id: person.id })
  const [endAll, { isLoading }] = useEndSessionsMutation()
  const others = sessions?.filter(s => !s.isThis) ?? []
  const signOut = async () => {
    const result = await endAll({ id: person.id })
    if (result.error) return tellProblem(result.error)
    toast(`${person.name} is signed out at ${plural(result.data?.count ?? 0, 'browser')}${isOwn ? ', and still here' : ''}.`)
  }
  return (
    <Modal title={`Where ${isOwn ? 'you are' : `${person.name} is`} signed in`} width="large" onClose={onClose}>
      {error ? (
        <Trouble error={error} onRetry={refetch} />
      ) : !sessions ? (
        <Skeleton className="h-20" />
      ) : sessions.length === 0 ? (
        <p className="text-quiet">Nowhere at present.</p>
      ) : (
        <ul className="max-h-80 overflow-auto border-t border-line">
          {sessions.map(s => (
            <SessionLine key={s.key} session={s} personId={person.id} />
          ))}
        </ul>
      )}
      <div className="mt-4 flex gap-2">
        {others.length > 1 && (
          <Button onClick={signOut} disabled={isLoading}>
            {isOwn ? 'Sign me out everywhere else' : 'Sign out everywhere'}
          </Button>
        )}
        <Button variant="bare" onClick={onClose}>
          Close
        </Button>
      </div>
    </Modal>
  )
}

function SessionLine({ session: s, personId }: { session: OpenSession; personId: number }) {
  const [end, { isLoading }] = useEndSessionMutation()
  const signOut = async () => {
    const result = await end({ id: personId, key: s.key })
    if (result.error) tellProblem(result.error)
  }
  return (
    <li className="flex min-h-12 items-center gap-3 border-b border-line py-1.5">
      <span className="min-w-0 flex-1">
        <span className="block font-medium">{s.browser}</span>
        <span className="block text-xs text-quiet">
          {s.begunAt && `since ${format(new Date(s.begunAt), 'd MMM yyyy HH:mm')}`}
          {s.seenAt && `, last seen on ${format(new Date(s.seenAt), 'd MMM')}`}
        </span>
      </span>
      {s.isThis ? (
        <span className="text-xs text-quiet">this browser</span>
      ) : (
        <Button onClick={signOut} disabled={isLoading} aria-label={`Sign out ${s.browser}`}>
          Sign out
        </Button>
      )}
    </li>
  )
}
