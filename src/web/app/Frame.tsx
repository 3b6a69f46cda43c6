import { Menu, MenuButton, MenuItem } from '@headlessui/react'
import { ChevronDown, CircleSlash } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { NavLink, useLocation } from 'react-router'
import type { Person } from '#shared/contracts/session.contract'
import { MenuPanel } from '../components/controls/ToolMenu'
import { KeysDialog } from '../components/dialogs/KeysDialog'
import { PasswordDialog } from '../components/dialogs/PasswordDialog'
import { SessionsDialog } from '../components/dialogs/SessionsDialog'
import { useKey } from '../components/use-key'
import { TrayBar } from '../places/wall/TrayBar'
import { api, useSignOutMutation } from '../state/api'
import { useAppDispatch, useAppSelector } from '../state/hooks'
import { type MessageTime, messageTimeChosen } from '../state/messages.slice'
import { SURROUNDS, type Surround, surroundChosen } from '../state/surround.slice'
import { ROLE_WORDS } from '../words/people'

const PLACES = [
  ['/wall', 'Wall'],
  ['/intake', 'Intake'],
  ['/standard', 'Standard'],
  ['/projects', 'Projects'],
  ['/upkeep', 'Upkeep'],
  ['/people', 'People'],
] as const

const SURROUND_WORDS: Record<Surround, string> = {
  n8: 'Light grey surround',
  n5: 'Middle grey surround',
  dark: 'Near-black surround',
}

const MESSAGE_WORDS: Record<MessageTime, string> = {
  brief: 'Messages go after 9 seconds',
  long: 'Messages go after half a minute',
  closed: 'Messages stay until closed',
}

/** The quiet line on top, the place below it, the tray at the bottom edge while it holds something. */
export function Frame({ person, children }: { person: Person; children: ReactNode }) {
  const [keysOpen, setKeysOpen] = useState(false)
  const [isPasswordOpen, setPasswordOpen] = useState(false)
  const [areSessionsOpen, setSessionsOpen] = useState(false)
  const isGuest = person.role === 'guest'
  const connected = useAppSelector(s => s.live.connected)
  // A mock-up has the tray on its shelf.
  const isMockUp = useLocation().pathname.startsWith('/mock-ups/')
  useKey('?', () => setKeysOpen(true))
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-6 border-b border-line px-6">
        <span className="flex items-center gap-2 font-semibold tracking-tight">
          <img src="/icon.svg" alt="" className="size-5" />
          Muscovite
        </span>
        <nav aria-label="Places" className="flex h-full gap-1">
          {PLACES.filter(([to]) => !isGuest || to === '/projects').map(([to, label]) => (
            <NavLink
              key={to}
              to={to}
              className={({ isActive }) =>
                `flex h-full items-center border-b-2 px-2.5 ${isActive ? 'border-ink font-medium' : 'border-transparent text-quiet hover:text-ink'}`
              }
            >
              {label}
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-4">
          {!connected && (
            <span role="status" className="flex items-center gap-1.5 text-xs text-quiet">
              <CircleSlash aria-hidden className="size-3.5" />
              no live line
            </span>
          )}
          <PersonMenu
            person={person}
            onKeys={() => setKeysOpen(true)}
            onPassword={() => setPasswordOpen(true)}
            onSessions={() => setSessionsOpen(true)}
          />
        </div>
      </header>
      <main className="min-h-0 flex-1">{children}</main>
      {!isGuest && !isMockUp && <TrayBar personId={person.id} mayApprove={person.role === 'lead'} />}
      {areSessionsOpen && <SessionsDialog person={person} isOwn onClose={() => setSessionsOpen(false)} />}
      <PasswordDialog open={isPasswordOpen} onClose={() => setPasswordOpen(false)} />
      <KeysDialog open={keysOpen} onClose={() => setKeysOpen(false)} />
    </div>
  )
}

interface MenuProps {
  person: Person
  onKeys: () => void
  onPassword: () => void
  onSessions: () => void
}

function PersonMenu({ person, onKeys, onPassword, onSessions }: MenuProps) {
  const dispatch = useAppDispatch()
  const surround = useAppSelector(s => s.surround.value)
  const messageTime = useAppSelector(s => s.messages.time)
  const [signOut] = useSignOutMutation()
  const entry = 'flex w-full items-center px-3 py-1.5 text-left data-focus:bg-sheet'
  return (
    <Menu>
      <MenuButton className="flex h-8 items-center gap-1.5 rounded-sm px-2 hover:bg-mount">
        {person.name}
        <span className="text-quiet">{ROLE_WORDS[person.role]}</span>
        <ChevronDown aria-hidden className="size-3.5" />
      </MenuButton>
      <MenuPanel anchor="bottom end" className="w-64">
        {SURROUNDS.map(value => (
          <MenuItem key={value}>
            <button type="button" className={entry} onClick={() => dispatch(surroundChosen(value))}>
              <span className="w-5">{value === surround ? '•' : ''}</span>
              {SURROUND_WORDS[value]}
            </button>
          </MenuItem>
        ))}
        <div className="my-1 border-t border-line" />
        {(Object.keys(MESSAGE_WORDS) as MessageTime[]).map(value => (
          <MenuItem key={value}>
            <button type="button" className={entry} onClick={() => dispatch(messageTimeChosen(value))}>
              <span className="w-5">{value === messageTime ? '•' : ''}</span>
              {MESSAGE_WORDS[value]}
            </button>
          </MenuItem>
        ))}
        <div className="my-1 border-t border-line" />
        <MenuItem>
          <button type="button" className={entry} onClick={onKeys}>
            <span className="w-5">?</span>
            Keys
          </button>
        </MenuItem>
        <MenuItem>
          <button type="button" className={entry} onClick={onPassword}>
            <span className="w-5" />
            Another password
          </button>
        </MenuItem>
        <MenuItem>
          <button type="button" className={entry} onClick={onSessions}>
            <span className="w-5" />
            Where I am signed in
          </button>
        </MenuItem>
        <MenuItem>
          <button
            type="button"
            className={entry}
            onClick={async () => {
              await signOut()
              dispatch(api.util.resetApiState())
            }}
          >
            <span className="w-5" />
            Sign out
          </button>
        </MenuItem>
      </MenuPanel>
    </Menu>
  )
}
