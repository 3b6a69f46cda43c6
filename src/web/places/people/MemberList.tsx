import { Menu, MenuButton } from '@headlessui/react'
import { MoreHorizontal } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import type { ChangePerson, ManagedLibrary, Member } from '#shared/contracts/people.contract'
import { ROLES } from '#shared/contracts/session.contract'
import { tellProblem } from '../../components/bulk-words'
import { Choice, ManyChoice, optionsOf } from '../../components/controls/Choice'
import { type Column, Table } from '../../components/controls/Table'
import { MenuPanel, ToolMenuEntry } from '../../components/controls/ToolMenu'
import { SessionsDialog } from '../../components/dialogs/SessionsDialog'
import { useChangePersonMutation, useMakeLinkMutation } from '../../state/api'
import { ROLE_WORDS } from '../../words/people'
import { plural } from '../../words/states'
import type { Handed } from './HandOver'

interface Props {
  members: readonly Member[]
  /** Client libraries that whoever looks may give. */
  clients: readonly ManagedLibrary[]
  ownId: number
  mayEdit: boolean
  onLink: (handed: Handed) => void
}

export function MemberList({ members, clients, ownId, mayEdit, onLink }: Props) {
  const [change] = useChangePersonMutation()
  const alter = async (member: Member, patch: ChangePerson, said: string, back: ChangePerson) => {
    const result = await change({ id: member.id, ...patch })
    if (result.error) return tellProblem(result.error)
    toast(said, { action: { label: 'Undo', onClick: () => change({ id: member.id, ...back }) } })
  }
  const teamsOf = (m: Member) => m.libraries.filter(l => l.kind === 'client')
  const columns: Column<Member>[] = [
    {
      head: 'Name',
      cell: m => (
        <span className={m.isActive ? '' : 'text-quiet line-through decoration-1'}>
          <span className="block font-medium">{m.name}</span>
          <span className="block text-xs text-quiet">{m.email}</span>
        </span>
      ),
    },
    {
      head: 'Works as',
      width: 'w-36',
      cell: m =>
        mayEdit && m.isActive && m.id !== ownId ? (
          <Choice
            label={`What ${m.name} works as`}
            variant="plain"
            className="-ml-1"
            value={m.role}
            onChange={role => alter(m, { role }, `${m.name} works as ${ROLE_WORDS[role]} now.`, { role: m.role })}
            options={optionsOf(ROLES, ROLE_WORDS)}
          />
        ) : (
          ROLE_WORDS[m.role]
        ),
    },
    {
      head: 'Client libraries, or projects shown',
      cell: m =>
        m.role === 'guest' ? (
          <span className="text-quiet">
            {m.projects.length === 0 ? 'no project is shown to them yet' : m.projects.map(p => p.title).join(', ')}
          </span>
        ) : mayEdit && m.isActive && clients.length > 0 ? (
          <ManyChoice
            label={`Teams of ${m.name}`}
            variant="plain"
            className="-ml-1 max-w-full"
            none="none"
            values={teamsOf(m).map(l => String(l.id))}
            onChange={ids =>
              alter(m, { libraryIds: ids.map(Number) }, `The teams of ${m.name} are changed.`, {
                libraryIds: teamsOf(m).map(l => l.id),
              })
            }
            options={clients.map(l => ({ value: String(l.id), text: l.title }))}
          />
        ) : (
          <span className="text-quiet">
            {teamsOf(m)
              .map(l => l.title)
              .join(', ') || 'none'}
          </span>
        ),
    },
    {
      head: 'Stands',
      width: 'w-52',
      cell: m => (
        <span className="text-xs text-quiet">
          {m.isActive ? (m.hasJoined ? '' : 'invited, has not come yet') : 'let out; what they did stays'}
          {m.isActive && m.hasJoined && m.sessions !== null && `signed in at ${plural(m.sessions, 'browser')}`}
        </span>
      ),
    },
    ...(mayEdit
      ? [
          {
            head: <span className="sr-only">What can be done</span>,
            width: 'w-10',
            cell: (m: Member) => <MemberMenu member={m} isOwn={m.id === ownId} alter={alter} onLink={onLink} />,
          },
        ]
      : []),
  ]
  return (
    <section aria-label="Everybody">
      <Table label="People" columns={columns} rows={members} keyOf={m => m.id} />
      <p className="mt-4 max-w-2xl text-xs text-quiet">
        Everybody who works here sees the house library; a guest sees the projects that are shown to them. A client's library, its
        items, projects and counts exist only for its team.
      </p>
    </section>
  )
}

interface MenuProps {
  member: Member
  isOwn: boolean
  alter: (member: Member, patch: ChangePerson, said: string, back: ChangePerson) => void
  onLink: (handed: Handed) => void
}

function MemberMenu({ member: m, isOwn, alter, onLink }: MenuProps) {
  const [makeLink] = useMakeLinkMutation()
  const [areSessionsOpen, setSessionsOpen] = useState(false)
  const link = async () => {
    const result = await makeLink({ id: m.id })
    if (result.error) tellProblem(result.error)
    else if (result.data) onLink({ name: m.name, path: result.data.path, isNew: !m.hasJoined, mail: result.data.mail })
  }
  return (
    <>
      {areSessionsOpen && <SessionsDialog person={m} isOwn={isOwn} onClose={() => setSessionsOpen(false)} />}
      <Menu>
        <MenuButton
          aria-label={`What can be done for ${m.name}`}
          className="flex size-8 items-center justify-center rounded-sm hover:bg-mount"
        >
          <MoreHorizontal aria-hidden className="size-4" />
        </MenuButton>
        <MenuPanel anchor="bottom end" className="w-72">
          {m.isActive && (
            <ToolMenuEntry onClick={link}>{m.hasJoined ? 'Make a link for a new password' : 'Make the link anew'}</ToolMenuEntry>
          )}
          {m.isActive && m.hasJoined && (
            <ToolMenuEntry onClick={() => setSessionsOpen(true)}>Where {isOwn ? 'I am' : 'they are'} signed in</ToolMenuEntry>
          )}
          {!isOwn &&
            (m.isActive ? (
              <ToolMenuEntry
                isLast
                onClick={() =>
                  alter(m, { isActive: false }, `${m.name} may not come in any more; what they did stays.`, { isActive: true })
                }
              >
                Let out
              </ToolMenuEntry>
            ) : (
              <ToolMenuEntry onClick={() => alter(m, { isActive: true }, `${m.name} may come in again.`, { isActive: false })}>
                Let in again
              </ToolMenuEntry>
            ))}
        </MenuPanel>
      </Menu>
    </>
  )
}
