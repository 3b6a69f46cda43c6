import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react'
import { Files } from 'lucide-react'
import type { BatchItem, Regroup } from '#shared/contracts/intake.contract'
import { roleWord } from '../../words/states'

const SIZES_PX = [8192, 4096, 2048, 1024]
/** What an item is the same without. */
const LEAVABLE = ['alternate', 'height', 'ambientOcclusion', 'specular', 'picture', 'document', 'lod', 'standIn']

interface Props {
  items: readonly BatchItem[]
  onRegroup: (wish: Regroup) => void
}

/** Which of their files the marked rows take: one size of each map, and no more kinds of file than are wanted. */
export function FilesMenu({ items, onRegroup }: Props) {
  const open = items.filter(i => i.state !== 'filed')
  const ids = open.map(i => i.id)
  const withSizes = open.filter(i => i.files.some(f => f.role === 'alternate')).length
  const kinds = LEAVABLE.map(role => ({ role, count: open.flatMap(i => i.files).filter(f => f.role === role).length })).filter(
    k => k.count > 0,
  )
  if (withSizes === 0 && kinds.length === 0) return null
  const entry = 'flex w-full items-baseline gap-3 px-3 py-1.5 text-left data-focus:bg-mount'
  return (
    <Menu>
      <MenuButton className="inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm border border-line bg-mount px-3 whitespace-nowrap hover:border-quiet">
        <Files aria-hidden className="size-3.5" />
        Files
      </MenuButton>
      <MenuItems
        anchor="bottom start"
        className="z-50 mt-1 w-80 rounded-sm border border-line bg-sheet py-1 shadow-lg focus:outline-none"
      >
        {withSizes > 0 && (
          <>
            <p className="px-3 py-1 text-xs text-quiet">Of several sizes the one that leads ({withSizes} rows have some)</p>
            {SIZES_PX.map(px => (
              <MenuItem key={px}>
                <button
                  type="button"
                  className={entry}
                  onClick={() => onRegroup({ action: 'chooseSize', ids, px, leaveRest: false })}
                >
                  {px / 1024}K, or the next smaller
                </button>
              </MenuItem>
            ))}
          </>
        )}
        {kinds.length > 0 && <p className="border-t border-line px-3 pt-2 pb-1 text-xs text-quiet">Leave out for now</p>}
        {kinds.map(({ role, count }) => (
          <MenuItem key={role}>
            <button type="button" className={entry} onClick={() => onRegroup({ action: 'leaveRoles', ids, roles: [role] })}>
              {roleWord(role)}
              <span className="figures ml-auto text-xs text-quiet">{count}</span>
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  )
}
