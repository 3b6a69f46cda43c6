import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import type { ManagedLibrary } from '#shared/contracts/people.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CONTROL } from '../../components/controls/control-look'
import { DraftField } from '../../components/controls/DraftField'
import { Panel } from '../../components/Page'
import { useAddLibraryMutation, useChangeLibraryMutation } from '../../state/api'
import { plural } from '../../words/states'

/** The house library and those of clients: begun, renamed, put out of sight. */
export function LibrariesPanel({ libraries, mayEdit }: { libraries: readonly ManagedLibrary[]; mayEdit: boolean }) {
  const [title, setTitle] = useState('')
  const [add, { isLoading }] = useAddLibraryMutation()
  const begin = async (event: FormEvent) => {
    event.preventDefault()
    const result = await add({ title: title.trim() })
    if (result.error) return tellProblem(result.error)
    setTitle('')
    toast(`${title.trim()} is there; you are the first of its team.`)
  }
  return (
    <Panel title="Libraries" label="Libraries">
      <ul className="border-t border-line">
        {libraries.map(l => (
          <LibraryLine key={l.id} library={l} mayEdit={mayEdit} />
        ))}
      </ul>
      {mayEdit && (
        <form onSubmit={begin} className="mt-3 flex gap-2">
          <input
            aria-label="Title of a new client library"
            placeholder="a client's library"
            value={title}
            onChange={event => setTitle(event.target.value)}
            className={`${CONTROL} flex-1`}
          />
          <Button type="submit" disabled={isLoading || title.trim() === ''}>
            Begin it
          </Button>
        </form>
      )}
    </Panel>
  )
}

function LibraryLine({ library: l, mayEdit }: { library: ManagedLibrary; mayEdit: boolean }) {
  const [change] = useChangeLibraryMutation()
  const alter = async (patch: { title?: string; isArchived?: boolean }, said: string, back: typeof patch) => {
    const result = await change({ id: l.id, ...patch })
    if (result.error) return tellProblem(result.error)
    toast(said, { action: { label: 'Undo', onClick: () => change({ id: l.id, ...back }) } })
  }
  return (
    <li className="flex items-center gap-2 border-b border-line py-2">
      <span className="min-w-0 flex-1">
        {mayEdit && !l.isArchived ? (
          <DraftField
            label={`Title of ${l.title}`}
            value={l.title}
            className="-ml-2 w-full border-transparent! bg-transparent font-medium hover:border-edge!"
            onSettle={title => title && alter({ title }, `It is called ${title} now.`, { title: l.title })}
          />
        ) : (
          <span className={`block font-medium ${l.isArchived ? 'text-quiet' : ''}`}>{l.title}</span>
        )}
        <span className="block text-xs text-quiet">
          {plural(l.items, 'item')}, {l.kind === 'house' ? 'everybody' : `a team of ${l.people}`}
          {l.isArchived && ', out of sight'}
        </span>
      </span>
      {mayEdit && l.kind === 'client' && (
        <Button
          variant="bare"
          onClick={() =>
            alter(
              { isArchived: !l.isArchived },
              l.isArchived ? `${l.title} is in sight again.` : `${l.title} is out of sight; everything in it stays.`,
              { isArchived: l.isArchived },
            )
          }
        >
          {l.isArchived ? 'Bring back' : 'Put away'}
        </Button>
      )}
    </li>
  )
}
