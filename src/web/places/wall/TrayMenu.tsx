import { Menu, MenuButton, MenuItem } from '@headlessui/react'
import { ChevronUp } from 'lucide-react'
import { type FormEvent, useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Chip } from '#shared/contracts/chip.contract'
import { tellProblem } from '../../components/bulk-words'
import { ManyChoice } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { MenuPanel } from '../../components/controls/ToolMenu'
import { DotChoice } from '../../components/Dots'
import { FormDialog } from '../../components/dialogs/FormDialog'
import { useDots } from '../../components/use-dots'
import { useGetPersonalQuery, useSaveTrayMutation, useSendTrayMutation } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'
import { trayOpened } from '../../state/tray.slice'
import { plural } from '../../words/states'
import { writeValues } from './wall-address'

interface Props {
  id: number | null
  chips: readonly Chip[]
}

/** What is done with a tray as such: its name, whom it goes to, dots on all of it, what is like it. */
export function TrayMenu({ id, chips }: Props) {
  const { data: personal } = useGetPersonalQuery()
  const [isSending, setSending] = useState(false)
  const [isNaming, setNaming] = useState(false)
  const dots = useDots()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const tray = personal?.trays.find(t => t.id === id)
  const title = tray?.title ?? 'Tray'
  const likeThese = () => {
    const alike = chips.filter(c => c.kind === chips[0].kind).slice(0, MOST_LIKE)
    navigate(`/wall?${new URLSearchParams({ like: writeValues(alike.map(c => c.code)) })}`)
  }
  const onAll = [1, 2, 3, 4, 5, 6].filter(color => chips.every(c => c.dots.includes(color)))
  return (
    <>
      <Menu>
        <MenuButton
          className="flex shrink-0 items-center gap-1.5 rounded-sm px-1.5 py-1 text-left hover:bg-mount"
          title={tray?.note || undefined}
        >
          <span className="text-xs">
            <span className="figures">{chips.length}</span> <span className="text-quiet">in</span>
            <span className="block max-w-28 truncate font-medium">{title}</span>
          </span>
          <ChevronUp aria-hidden className="size-3.5 text-quiet" />
        </MenuButton>
        <MenuPanel anchor="top start" className="w-64">
          {tray && (tray.from || tray.note) && (
            <p className="border-b border-line px-3 pt-1 pb-2 text-xs text-quiet">
              {tray.from && `From ${tray.from}. `}
              {tray.note}
            </p>
          )}
          <div className="px-2 pt-1 pb-1.5">
            <DotChoice colors={onAll} meaningOf={dots.meaningOf} onToggle={color => dots.toggle(chips, color)} />
          </div>
          <Entry onClick={likeThese}>Find what is like these</Entry>
          <Entry onClick={() => setSending(true)} disabled={id === null}>
            Send to a colleague…
          </Entry>
          <Entry onClick={() => setNaming(true)} disabled={id === null}>
            Rename…
          </Entry>
          <Entry onClick={() => dispatch(trayOpened({ id: null, chips: [], isNew: true }))}>Put it by and begin another</Entry>
        </MenuPanel>
      </Menu>
      {isNaming && id !== null && <NameDialog id={id} title={title} onClose={() => setNaming(false)} />}
      {isSending && id !== null && <SendDialog id={id} count={chips.length} onClose={() => setSending(false)} />}
    </>
  )
}

const MOST_LIKE = 6

const Entry = ({ onClick, disabled, children }: { onClick: () => void; disabled?: boolean; children: string }) => (
  <MenuItem disabled={disabled}>
    <button type="button" onClick={onClick} className="w-full px-3 py-1.5 text-left data-disabled:opacity-45 data-focus:bg-sheet">
      {children}
    </button>
  </MenuItem>
)

function NameDialog({ id, title, onClose }: { id: number; title: string; onClose: () => void }) {
  const [text, setText] = useState(title)
  const [saveTray] = useSaveTrayMutation()
  const { refetch } = useGetPersonalQuery()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const result = await saveTray({ id, title: text })
    if (result.error) return tellProblem(result.error)
    await refetch()
    onClose()
  }
  return (
    <FormDialog title="Rename the tray" onClose={onClose} onSubmit={submit} action="Rename" disabled={text.trim() === ''}>
      <TextField label="Name" value={text} onChange={event => setText(event.target.value)} autoFocus required maxLength={80} />
    </FormDialog>
  )
}

function SendDialog({ id, count, onClose }: { id: number; count: number; onClose: () => void }) {
  const { data: personal } = useGetPersonalQuery()
  const [people, setPeople] = useState<string[]>([])
  const [note, setNote] = useState('')
  const [sendTray, { isLoading }] = useSendTrayMutation()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const result = await sendTray({ id, personIds: people.map(Number), note })
    if (!result.data) return tellProblem(result.error)
    for (const { name, leftOut } of result.data.sent)
      if (leftOut === 0) toast.success(`${name} has a copy of it among their trays.`)
      else toast.warning(`${name} has a copy without ${plural(leftOut, 'item')} of a library that they do not see.`)
    onClose()
  }
  return (
    <FormDialog
      title={`Send ${plural(count, 'item')}`}
      onClose={onClose}
      onSubmit={submit}
      action="Send"
      disabled={people.length === 0 || isLoading}
    >
      <ManyChoice
        label="To"
        none="To whom?"
        values={people}
        options={(personal?.colleagues ?? []).map(c => ({ value: String(c.id), text: c.name }))}
        onChange={setPeople}
      />
      <TextField label="A word with it" value={note} onChange={event => setNote(event.target.value)} maxLength={500} />
    </FormDialog>
  )
}
