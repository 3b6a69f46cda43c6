import { Menu, MenuButton, MenuItem } from '@headlessui/react'
import { ChevronUp, X } from 'lucide-react'
import { useLocation, useNavigate } from 'react-router'
import { toast } from 'sonner'
import { MOST_COMPARED } from '#shared/compare-key'
import { MOST_STATES } from '#shared/contracts/items.contract'
import { smallestOf } from '#shared/picture-widths'
import { sendTelling, tellBulk, tellProblem } from '../../components/bulk-words'
import { CarryMenu } from '../../components/CarryMenu'
import { Button } from '../../components/controls/Button'
import { MenuPanel } from '../../components/controls/ToolMenu'
import { useKey } from '../../components/use-key'
import { useListProjectsQuery, usePinItemsMutation, useSetStatesMutation } from '../../state/api'
import { patchChips } from '../../state/chips'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { traySet, trayToggled } from '../../state/tray.slice'
import { useTraySync } from '../../state/use-tray-sync'
import { plural } from '../../words/states'
import { TrayMenu } from './TrayMenu'

/** Pictures of a tray that are drawn; of hundreds nobody looks at each. */
const SHOWN = 60

/** What is selected, at the bottom edge of every place while there is something. */
export function TrayBar({ personId, mayApprove }: { personId: number; mayApprove: boolean }) {
  const { ownerId, id, chips } = useAppSelector(s => s.tray)
  useTraySync(personId)
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const location = useLocation()
  const [setStates, { isLoading }] = useSetStatesMutation()
  const compare = () =>
    navigate(
      `/compare?of=${chips
        .slice(0, MOST_COMPARED)
        .map(c => c.code)
        .join(',')}`,
    )
  const isMine = ownerId === null || ownerId === personId
  useKey('c', () => {
    if (isMine && chips.length >= 2) compare()
  })
  // What somebody else had in hand on this browser is not shown, not even for a moment.
  if (chips.length === 0 || !isMine) return null
  const approve = async () => {
    const before = chips
    const ids = chips.map(c => c.id)
    // Shown at once; what is refused is read again as it is.
    const undo = dispatch(
      patchChips(new Set(ids), chip => {
        chip.state = 'approved'
      }),
    )
    const { all, error } = await sendTelling(ids, MOST_STATES, part => setStates({ ids: part, state: 'approved' }))
    if (error) {
      undo()
      tellProblem(error)
    }
    if (all.changed.length + all.refused.length === 0) return
    tellBulk(n => `${plural(n, 'item')} approved.`, all)
    // What was not come to stays as well.
    const done = new Set(all.changed)
    dispatch(traySet(before.filter(c => !done.has(c.id))))
  }
  const clear = () => {
    const before = chips
    dispatch(traySet([]))
    toast('The tray is empty.', { action: { label: 'Undo', onClick: () => dispatch(traySet(before)) } })
  }
  return (
    <section data-tray aria-label="Tray" className="flex h-16 shrink-0 items-center gap-3 border-t-2 border-ink bg-sheet px-6">
      <TrayMenu id={id} chips={chips} />
      <ul className="flex min-w-0 flex-1 gap-1.5 overflow-x-auto py-1">
        {chips.slice(0, SHOWN).map(chip => (
          <li key={chip.id} className="group relative shrink-0">
            <button
              type="button"
              title={`${chip.code} ${chip.name}`}
              onClick={() => navigate(`/items/${chip.code}`, { state: { behind: location } })}
              className="block h-12 w-16 overflow-hidden bg-mount"
            >
              {chip.preview ? (
                <img src={smallestOf(chip.preview)} alt={chip.name} className="size-full object-cover" />
              ) : (
                <span className="figures text-2xs">{chip.code}</span>
              )}
            </button>
            <button
              type="button"
              aria-label={`Take ${chip.name} out of the tray`}
              onClick={() => dispatch(trayToggled(chip))}
              className="absolute -top-1 -right-1 hidden size-4 items-center justify-center rounded-full bg-ink text-mount group-hover:flex group-focus-within:flex"
            >
              <X aria-hidden className="size-3" />
            </button>
          </li>
        ))}
        {chips.length > SHOWN && (
          <li className="figures flex h-12 shrink-0 items-center px-2 text-xs text-quiet">and {chips.length - SHOWN} more</li>
        )}
      </ul>
      <Button variant="bare" onClick={clear}>
        Empty
      </Button>
      <Button
        onClick={compare}
        disabled={chips.length < 2}
        title={
          chips.length > MOST_COMPARED ? `Compares the first ${MOST_COMPARED}` : 'Side by side, over each other, in numbers (C)'
        }
      >
        Compare
      </Button>
      {mayApprove && (
        <Button onClick={approve} disabled={isLoading}>
          Approve
        </Button>
      )}
      <CarryMenu chips={chips} isAbove onDone={refusedIds => dispatch(traySet(chips.filter(c => refusedIds.includes(c.id))))} />
      <IntoProject
        ids={chips.map(c => c.id)}
        onDone={refusedIds => dispatch(traySet(chips.filter(c => refusedIds.includes(c.id))))}
      />
    </section>
  )
}

function IntoProject({ ids, onDone }: { ids: number[]; onDone: (refusedIds: number[]) => void }) {
  const { data: projects = [] } = useListProjectsQuery()
  const [pinItems, { isLoading }] = usePinItemsMutation()
  const navigate = useNavigate()
  const put = async (projectId: number, title: string) => {
    const result = await pinItems({ id: projectId, ids })
    if (result.error) {
      tellProblem(result.error)
      return
    }
    if (!result.data) return
    tellBulk(n => `${plural(n, 'item')} pinned in ${title}.`, result.data)
    onDone(result.data.refused.map(r => r.id))
    if (result.data.changed.length > 0) navigate(`/projects/${projectId}`)
  }
  return (
    <Menu>
      <MenuButton as={Button} variant="next" disabled={isLoading}>
        Into project
        <ChevronUp aria-hidden className="size-3.5" />
      </MenuButton>
      <MenuPanel anchor="top end" className="w-72">
        {projects.map(p => (
          <MenuItem key={p.id}>
            <button
              type="button"
              onClick={() => put(p.id, p.title)}
              className="flex w-full items-baseline gap-2 px-3 py-1.5 text-left data-focus:bg-sheet"
            >
              <span className="figures w-20 shrink-0 text-xs text-quiet">{p.code}</span>
              <span className="truncate">{p.title}</span>
            </button>
          </MenuItem>
        ))}
        {projects.length === 0 && <p className="px-3 py-2 text-quiet">There is no project yet; begin one at Projects.</p>}
      </MenuPanel>
    </Menu>
  )
}
