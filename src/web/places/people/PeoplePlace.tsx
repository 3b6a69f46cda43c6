import { useState } from 'react'
import type { Session } from '#shared/contracts/session.contract'
import { Button } from '../../components/controls/Button'
import { Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { useListManagedLibrariesQuery, useListMembersQuery } from '../../state/api'
import { type Handed, HandOver } from './HandOver'
import { InviteForm } from './InviteForm'
import { LibrariesPanel } from './LibrariesPanel'
import { MemberList } from './MemberList'
import { TokensPanel } from './TokensPanel'

/** Who works here, and which libraries each may see. Leads invite, change and let out. */
export function PeoplePlace({ session }: { session: Session }) {
  const { data: members, error, refetch } = useListMembersQuery()
  const { data: libraries = [] } = useListManagedLibrariesQuery()
  const [isInviting, setInviting] = useState(false)
  const [handed, setHanded] = useState<Handed | null>(null)
  const mayEdit = session.person?.role === 'lead'
  const clients = libraries.filter(l => l.kind === 'client' && !l.isArchived)
  if (error) return <Trouble error={error} onRetry={refetch} />
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead
          title="People"
          facts={
            session.studio ? `Who works at ${session.studio}, and what each may see` : 'Who works here, and what each may see'
          }
          actions={
            mayEdit && (
              <Button
                variant={isInviting || handed ? 'plain' : 'next'}
                aria-expanded={isInviting}
                onClick={() => setInviting(!isInviting)}
              >
                Invite somebody
              </Button>
            )
          }
        />
        {isInviting && (
          <InviteForm
            clients={clients}
            onInvited={invited => {
              setHanded(invited)
              setInviting(false)
            }}
            onLeave={() => setInviting(false)}
          />
        )}
        {handed && <HandOver handed={handed} onDone={() => setHanded(null)} />}
        <div className="grid grid-cols-[minmax(0,1fr)_21rem] gap-8">
          {members ? (
            <MemberList
              members={members}
              clients={clients}
              ownId={session.person?.id ?? 0}
              mayEdit={mayEdit}
              onLink={setHanded}
            />
          ) : (
            <Skeleton className="h-40" />
          )}
          <div className="flex flex-col gap-6">
            <LibrariesPanel libraries={libraries} mayEdit={mayEdit} />
            <TokensPanel />
          </div>
        </div>
      </div>
    </Page>
  )
}
