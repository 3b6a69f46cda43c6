import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react'
import { Wrench } from 'lucide-react'
import type { FindingCode } from '#core/findings/finding'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { FINDING_NAMES } from '#shared/finding-names'
import { plural } from '../../words/states'
import { listFindingKinds } from './worklist-view'

/** Every kind of finding among these rows that can be mended by itself, each with how many rows it concerns. */
export function FixMenu({ items, onFix }: { items: readonly BatchItem[]; onFix: (codes: FindingCode[]) => void }) {
  const kinds = listFindingKinds(items.filter(i => i.state === 'ready')).filter(k => k.isFixable)
  if (kinds.length === 0) return null
  return (
    <Menu>
      <MenuButton className="inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm border border-line bg-mount px-3 whitespace-nowrap hover:border-quiet">
        <Wrench aria-hidden className="size-3.5" />
        Mend
      </MenuButton>
      <MenuItems
        anchor="bottom start"
        className="z-50 mt-1 w-80 rounded-sm border border-line bg-sheet py-1 shadow-lg focus:outline-none"
      >
        {kinds.map(k => (
          <MenuItem key={k.code}>
            <button
              type="button"
              className="flex w-full items-baseline gap-3 px-3 py-1.5 text-left data-focus:bg-mount"
              onClick={() => onFix([k.code])}
            >
              {FINDING_NAMES[k.code]}
              <span className="figures ml-auto text-xs text-quiet">{plural(k.rows, 'item')}</span>
            </button>
          </MenuItem>
        ))}
        {kinds.length > 1 && (
          <MenuItem>
            <button
              type="button"
              className="w-full border-t border-line px-3 py-1.5 text-left font-medium data-focus:bg-mount"
              onClick={() => onFix(kinds.map(k => k.code))}
            >
              All of these
            </button>
          </MenuItem>
        )}
      </MenuItems>
    </Menu>
  )
}
