import { Menu, MenuButton, MenuItem, MenuSection } from '@headlessui/react'
import { Check, ChevronDown } from 'lucide-react'
import { GROUPS, type Group, type NamedOrder, ORDERS } from '#core/find/query/find-order'
import { Button } from '../../components/controls/Button'
import { MenuPanel } from '../../components/controls/ToolMenu'
import type { WallAddress } from './wall-address'

const ORDER_WORDS: Record<NamedOrder, string> = {
  best: 'best first',
  code: 'by code',
  name: 'by name',
  newest: 'newest first',
  changed: 'last changed first',
  width: 'by width',
  light: 'lightest first',
  hue: 'by hue',
}

const GROUP_WORDS: Record<Group, string> = {
  category: 'by category',
  maker: 'by maker',
  color: 'by colour',
  kind: 'by kind',
  state: 'by state',
  licence: 'by licence',
}

interface Props {
  address: Pick<WallAddress, 'order' | 'group'>
  /** A table has no groups. */
  mayGroup: boolean
  onChange: (patch: Partial<WallAddress>) => void
}

/** In which order things hang, and by what they are put together. */
export function OrderMenu({ address: { order, group }, mayGroup, onChange }: Props) {
  const orderWord = (ORDERS as readonly string[]).includes(order) ? ORDER_WORDS[order as NamedOrder] : 'by a column'
  const groupWord = mayGroup && group !== '' ? GROUP_WORDS[group] : null
  return (
    <Menu>
      <MenuButton as={Button} variant="bare" className="max-w-52 px-2 text-quiet" title="Order, and what is put together">
        <span className="sr-only">Order: </span>
        <span className="truncate">{groupWord === null ? orderWord : `${groupWord}, ${orderWord}`}</span>
        <ChevronDown aria-hidden className="size-3.5" />
      </MenuButton>
      <MenuPanel anchor="bottom end" className="w-56">
        <MenuSection>
          {ORDERS.map(value => (
            <ChoiceEntry key={value} isChosen={order === value} onClick={() => onChange({ order: value })}>
              {ORDER_WORDS[value]}
            </ChoiceEntry>
          ))}
        </MenuSection>
        {mayGroup && (
          <MenuSection className="mt-1 border-t border-line pt-1">
            {(['', ...GROUPS] as const).map(value => (
              <ChoiceEntry key={value} isChosen={group === value} onClick={() => onChange({ group: value })}>
                {value === '' ? 'not put together' : `put together ${GROUP_WORDS[value]}`}
              </ChoiceEntry>
            ))}
          </MenuSection>
        )}
      </MenuPanel>
    </Menu>
  )
}

const ChoiceEntry = ({ isChosen, onClick, children }: { isChosen: boolean; onClick: () => void; children: string }) => (
  <MenuItem>
    <button
      type="button"
      onClick={onClick}
      className={`flex w-full items-center gap-2 px-2 py-1 text-left data-focus:bg-sheet ${isChosen ? 'font-medium' : ''}`}
    >
      <Check aria-hidden className={`size-3.5 ${isChosen ? '' : 'invisible'}`} />
      {children}
    </button>
  </MenuItem>
)
