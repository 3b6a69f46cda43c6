import { Menu, MenuButton, MenuItem, MenuSection } from '@headlessui/react'
import { ChevronDown, Grid2x2, Grid3x3, type LucideIcon, RectangleHorizontal, Rows3, ScatterChart, Square } from 'lucide-react'
import { Button } from '../../components/controls/Button'
import { MenuPanel } from '../../components/controls/ToolMenu'
import { useKey } from '../../components/use-key'
import { CHIP_SIZES, type ChipSize, chipSizeChosen, type WallForm, wallFormChosen } from '../../state/chip-size.slice'
import { useAppDispatch, useAppSelector } from '../../state/hooks'

const SIZES: Readonly<Record<ChipSize, [string, LucideIcon]>> = {
  contact: ['Contact sheet', Grid3x3],
  usual: ['Chips', Grid2x2],
  large: ['Large chips', Square],
  two: ['Two in a row', RectangleHorizontal],
}
type OtherForm = Exclude<WallForm, 'chips'>
const OTHER_FORMS: readonly OtherForm[] = ['table', 'colors']
const FORMS: Readonly<Record<OtherForm, [string, LucideIcon, string]>> = {
  table: ['Table', Rows3, 'R'],
  colors: ['Map of colours', ScatterChart, ''],
}

/** What the wall looks like: chips of a size, + and − as well, or another form. */
export function WallFormMenu() {
  const { size, form } = useAppSelector(s => s.chipSize)
  const dispatch = useAppDispatch()
  const step = (by: number) => {
    const next = CHIP_SIZES[Math.min(CHIP_SIZES.length - 1, Math.max(0, CHIP_SIZES.indexOf(size) + by))]
    dispatch(chipSizeChosen(next))
  }
  useKey('+', () => step(1))
  useKey('-', () => step(-1))
  useKey('r', () => dispatch(wallFormChosen(form === 'table' ? 'chips' : 'table')))
  const [word, Icon] = form === 'chips' ? SIZES[size] : FORMS[form]
  return (
    <Menu>
      <MenuButton
        as={Button}
        variant="bare"
        className="px-2"
        aria-label={`Form of the wall: ${word}`}
        title={`${word}; other forms`}
      >
        <Icon aria-hidden className="size-4" />
        <ChevronDown aria-hidden className="size-3.5 text-quiet" />
      </MenuButton>
      <MenuPanel anchor="bottom end" className="w-52">
        <MenuSection>
          {CHIP_SIZES.map(value => (
            <Entry
              key={value}
              word={SIZES[value][0]}
              icon={SIZES[value][1]}
              isChosen={form === 'chips' && size === value}
              onClick={() => dispatch(chipSizeChosen(value))}
            />
          ))}
        </MenuSection>
        <MenuSection className="mt-1 border-t border-line pt-1">
          {OTHER_FORMS.map(value => (
            <Entry
              key={value}
              word={FORMS[value][0]}
              icon={FORMS[value][1]}
              hint={FORMS[value][2]}
              isChosen={form === value}
              onClick={() => dispatch(wallFormChosen(value))}
            />
          ))}
        </MenuSection>
      </MenuPanel>
    </Menu>
  )
}

interface EntryProps {
  word: string
  icon: LucideIcon
  hint?: string
  isChosen: boolean
  onClick: () => void
}

const Entry = ({ word, icon: Icon, hint, isChosen, onClick }: EntryProps) => (
  <MenuItem>
    <button
      type="button"
      onClick={onClick}
      className={`flex w-full items-center gap-2.5 px-3 py-1 text-left data-focus:bg-sheet ${isChosen ? 'font-medium' : ''}`}
    >
      <Icon aria-hidden className={`size-4 ${isChosen ? '' : 'text-quiet'}`} strokeWidth={isChosen ? 2.25 : 1.5} />
      {word}
      {hint && <span className="figures ml-auto text-xs text-quiet">{hint}</span>}
    </button>
  </MenuItem>
)
