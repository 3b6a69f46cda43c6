import { Menu, MenuButton, MenuItem, MenuItems, type MenuItemsProps } from '@headlessui/react'
import type { LucideIcon } from 'lucide-react'
import type { ReactNode } from 'react'

interface PanelProps {
  anchor: MenuItemsProps['anchor']
  /** Its width. */
  className: string
  children: ReactNode
}

/** The sheet on which any menu lists its entries. */
export const MenuPanel = ({ anchor, className, children }: PanelProps) => (
  <MenuItems
    modal={false}
    anchor={anchor}
    className={`z-50 my-1 rounded-sm border border-edge bg-mount py-1 shadow-lg focus:outline-none ${className}`}
  >
    {children}
  </MenuItems>
)

/** A button of a tool line that opens a list of things to do. */
export function ToolMenu({ icon: Icon, label, children }: { icon: LucideIcon; label: string; children: ReactNode }) {
  return (
    <Menu>
      <MenuButton className="inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm border border-edge bg-mount px-3 whitespace-nowrap hover:border-ink">
        <Icon aria-hidden className="size-3.5" />
        {label}
      </MenuButton>
      <MenuPanel anchor="bottom start" className="w-80">
        {children}
      </MenuPanel>
    </Menu>
  )
}

interface EntryProps {
  onClick: () => void
  /** How much it concerns, at the end of the line. */
  count?: string | number
  /** Set apart from the entries above. */
  isLast?: boolean
  children: ReactNode
}

export const ToolMenuEntry = ({ onClick, count, isLast, children }: EntryProps) => (
  <MenuItem>
    <button
      type="button"
      className={`flex w-full items-baseline gap-3 px-3 py-1.5 text-left data-focus:bg-sheet ${isLast ? 'border-t border-line font-medium' : ''}`}
      onClick={onClick}
    >
      {children}
      {count !== undefined && <span className="figures ml-auto text-xs text-quiet">{count}</span>}
    </button>
  </MenuItem>
)
