import { Menu, MenuButton, MenuItem } from '@headlessui/react'
import { Bookmark, ChevronDown, Trash2 } from 'lucide-react'
import { type FormEvent, useRef, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { TextField } from '../../components/controls/Field'
import { MenuPanel } from '../../components/controls/ToolMenu'
import { FormDialog } from '../../components/dialogs/FormDialog'
import { useKey } from '../../components/use-key'
import {
  useGetPersonalQuery,
  useLazyGetTrayQuery,
  useRemoveTrayMutation,
  useRemoveViewMutation,
  useSaveViewMutation,
  useStandInViewMutation,
} from '../../state/api'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { trayOpened } from '../../state/tray.slice'
import { ChangesDialog } from './ChangesDialog'

/** One's own order: views under a name, trays, what one looked at and used. */
export function MineMenu({ isNarrowed, onBulk }: { isNarrowed: boolean; onBulk: (id: number) => void }) {
  const [params, setParams] = useSearchParams()
  const [isSaving, setSaving] = useState(false)
  const [isListing, setListing] = useState(false)
  const { data: personal, refetch } = useGetPersonalQuery()
  const [standInView] = useStandInViewMutation()
  const [removeView] = useRemoveViewMutation()
  const [removeTray] = useRemoveTrayMutation()
  const [getTray] = useLazyGetTrayQuery()
  const [saveView] = useSaveViewMutation()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const trayId = useAppSelector(s => s.tray.id)
  const fresh = personal?.views.reduce((sum, v) => sum + v.fresh, 0) ?? 0
  const open = (id: number, address: string) => {
    navigate(`/wall?${address}`)
    void standInView({ id })
  }
  const openTray = async (id: number) => {
    const { data, error } = await getTray({ id })
    if (data) dispatch(trayOpened({ id, chips: data.chips }))
    else tellProblem(error)
  }
  const dropView = async (id: number) => {
    const view = personal?.views.find(v => v.id === id)
    const result = await removeView({ id })
    if (result.error) tellProblem(result.error)
    else if (view)
      toast(`${view.title} is removed.`, {
        action: { label: 'Undo', onClick: () => saveView({ title: view.title, address: view.address, isShared: view.isShared }) },
      })
  }
  const dropTray = async (id: number) => {
    const result = await removeTray({ id })
    if (result.error) tellProblem(result.error)
    else if (id === trayId) dispatch(trayOpened({ id: null, chips: [] }))
  }
  const button = useRef<HTMLButtonElement>(null)
  useKey('m', () => button.current?.click())
  return (
    <>
      <Menu>
        <MenuButton
          ref={button}
          as={Button}
          variant="bare"
          className="px-2"
          onClick={() => void refetch()}
          title="Saved views, trays, what you looked at and used (M)"
        >
          <Bookmark aria-hidden className="size-3.5" />
          <span className="max-[1400px]:sr-only">Mine</span>
          {fresh > 0 && <span className="figures text-xs text-quiet">+{fresh}</span>}
          <ChevronDown aria-hidden className="size-3.5 text-quiet" />
        </MenuButton>
        <MenuPanel anchor="bottom end" className="max-h-[70vh]! w-84 overflow-y-auto">
          <Heading>Views</Heading>
          {personal?.views.map(({ id, title, address, count, fresh: isNew, owner, isShared }) => (
            <Line
              key={id}
              onClick={() => open(id, address)}
              onRemove={owner === '' ? () => dropView(id) : undefined}
              removeLabel={`Remove the view ${title}`}
              beside={owner === '' ? (isShared ? 'shared' : '') : owner}
              count={isNew > 0 ? `${count} · ${isNew} new` : String(count)}
            >
              {title}
            </Line>
          ))}
          {isNarrowed && (
            <MenuItem>
              <button
                type="button"
                onClick={() => setSaving(true)}
                className="w-full px-3 py-1.5 text-left font-medium data-focus:bg-sheet"
              >
                Save this view…
              </button>
            </MenuItem>
          )}
          {personal?.views.length === 0 && !isNarrowed && (
            <p className="px-3 py-1 text-quiet">Narrow the wall, and the view can be saved here.</p>
          )}
          <Heading>Trays</Heading>
          {personal?.trays.map(({ id, title, count, from, note }) => (
            <Line
              key={id}
              onClick={() => openTray(id)}
              onRemove={() => dropTray(id)}
              removeLabel={`Remove the tray ${title}`}
              beside={[from && `from ${from}`, note].filter(Boolean).join(': ')}
              count={String(count)}
              isCurrent={id === trayId}
            >
              {title}
            </Line>
          ))}
          <MenuItem>
            <button
              type="button"
              onClick={() => dispatch(trayOpened({ id: null, chips: [], isNew: true }))}
              className="w-full px-3 py-1.5 text-left data-focus:bg-sheet"
            >
              Begin another tray
            </button>
          </MenuItem>
          <Heading>Of late</Heading>
          <Line onClick={() => setParams(new URLSearchParams({ mine: 'lookedAt' }))}>Looked at last</Line>
          <Line onClick={() => setParams(new URLSearchParams({ mine: 'used' }))}>Used in projects</Line>
          <Line onClick={() => setListing(true)}>Changes of many items…</Line>
        </MenuPanel>
      </Menu>
      {isListing && <ChangesDialog onStarted={onBulk} onClose={() => setListing(false)} />}
      {isSaving && <SaveViewDialog address={params.toString()} onClose={() => setSaving(false)} />}
    </>
  )
}

const Heading = ({ children }: { children: string }) => (
  <p className="border-line px-3 pt-2 pb-0.5 text-2xs text-quiet not-first:mt-1 not-first:border-t">{children}</p>
)

interface LineProps {
  onClick: () => void
  onRemove?: () => void
  removeLabel?: string
  beside?: string
  count?: string
  isCurrent?: boolean
  children: string
}

function Line({ onClick, onRemove, removeLabel, beside, count, isCurrent, children }: LineProps) {
  return (
    <div className="group flex items-center">
      <MenuItem>
        <button
          type="button"
          aria-current={isCurrent || undefined}
          onClick={onClick}
          className="flex min-w-0 flex-1 items-baseline gap-2 px-3 py-1.5 text-left data-focus:bg-sheet aria-[current]:font-medium"
        >
          <span className="shrink-0">{children}</span>
          {beside && (
            <span className="min-w-0 truncate text-xs text-quiet" title={beside}>
              {beside}
            </span>
          )}
          {count && <span className="figures ml-auto shrink-0 pl-2 text-xs text-quiet">{count}</span>}
        </button>
      </MenuItem>
      {onRemove && (
        <MenuItem>
          <button
            type="button"
            aria-label={removeLabel}
            title="Remove"
            onClick={onRemove}
            className="mr-1 rounded-sm p-1 text-quiet opacity-0 group-hover:opacity-100 data-focus:bg-sheet data-focus:opacity-100"
          >
            <Trash2 aria-hidden className="size-3.5" />
          </button>
        </MenuItem>
      )}
    </div>
  )
}

function SaveViewDialog({ address, onClose }: { address: string; onClose: () => void }) {
  const [title, setTitle] = useState('')
  const [isShared, setShared] = useState(false)
  const [saveView, { isLoading }] = useSaveViewMutation()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const result = await saveView({ title, address, isShared })
    if (result.error) return tellProblem(result.error)
    toast.success(`${title.trim()} is among your views${isShared ? ', and among everybody’s' : ''}.`)
    onClose()
  }
  return (
    <FormDialog
      title="Save this view"
      action="Save"
      disabled={isLoading || title.trim() === ''}
      onClose={onClose}
      onSubmit={submit}
    >
      <TextField label="Name" value={title} onChange={event => setTitle(event.target.value)} autoFocus required maxLength={80} />
      <CheckBox label="Everybody finds it among their views" checked={isShared} onChange={setShared} />
    </FormDialog>
  )
}
