import { Menu, MenuButton } from '@headlessui/react'
import { ChevronDown, ChevronUp } from 'lucide-react'
import { groupBy } from '#core/group-by'
import type { Chip } from '#shared/contracts/chip.contract'
import { MOST_CARRIED, MOST_STATES } from '#shared/contracts/items.contract'
import type { Library } from '#shared/contracts/session.contract'
import { useCarryItemsMutation, useGetSessionQuery, useSetStatesMutation } from '../state/api'
import { plural } from '../words/states'
import { sendTelling, tellBulk, tellProblem } from './bulk-words'
import { Button } from './controls/Button'
import { MenuPanel, ToolMenuEntry } from './controls/ToolMenu'

interface Props {
  chips: readonly Pick<Chip, 'id' | 'library'>[]
  /** Whether the list opens upwards, at the window's lower edge. */
  isAbove?: boolean
  /** With the items that went nowhere. */
  onDone?: (leftIds: number[]) => void
}

/** Items into another library; nothing where there is only one, or for somebody who does not build libraries. */
export function CarryMenu({ chips, isAbove = false, onDone }: Props) {
  const { data: session } = useGetSessionQuery()
  const [carry, { isLoading }] = useCarryItemsMutation()
  const [setStates] = useSetStatesMutation()
  const libraries = session?.libraries ?? []
  const others = libraries.filter(l => chips.some(c => c.library !== l.title))
  if (session?.person?.role !== 'lead' || others.length === 0) return null
  const run = async (library: Library, as: 'move' | 'copy') => {
    const carryAll = (ids: readonly number[], key: string, how: 'move' | 'copy') =>
      sendTelling(ids, MOST_CARRIED, part => carry({ ids: part, library: key, as: how }))
    const ids = chips.map(c => c.id)
    const { done, all, error } = await carryAll(ids, library.key, as)
    if (error) tellProblem(error)
    if (done.length === 0) return
    const changed = new Set(all.changed)
    const takeBack = async () => {
      if (as === 'copy') {
        const made = done.flatMap(r => r.made)
        return void sendTelling(made, MOST_STATES, part => setStates({ ids: part, state: 'withdrawn' }))
      }
      const moved = chips.filter(c => changed.has(c.id))
      for (const [title, group] of groupBy(moved, c => c.library)) {
        const key = libraries.find(l => l.title === title)?.key
        if (!key) continue
        const back = await carryAll(
          group.map(c => c.id),
          key,
          'move',
        )
        if (back.error) tellProblem(back.error)
      }
    }
    tellBulk(n => `${plural(n, 'item')} ${as === 'move' ? 'moved' : 'copied'} into ${library.title}.`, all, {
      label: 'Undo',
      onClick: () => void takeBack(),
    })
    // What was not come to stays as well.
    onDone?.(ids.filter(id => !changed.has(id)))
  }
  return (
    <Menu>
      <MenuButton as={Button} disabled={isLoading}>
        Into library
        {isAbove ? <ChevronUp aria-hidden className="size-3.5" /> : <ChevronDown aria-hidden className="size-3.5" />}
      </MenuButton>
      <MenuPanel anchor={isAbove ? 'top end' : 'bottom end'} className="w-72">
        {others.map(l => (
          <ToolMenuEntry key={`copy ${l.id}`} onClick={() => run(l, 'copy')}>
            Copy into {l.title}
          </ToolMenuEntry>
        ))}
        {others.map((l, k) => (
          <ToolMenuEntry key={`move ${l.id}`} isLast={k === 0} onClick={() => run(l, 'move')}>
            Move into {l.title}
          </ToolMenuEntry>
        ))}
      </MenuPanel>
    </Menu>
  )
}
