import { Menu, MenuButton, MenuItem } from '@headlessui/react'
import { Download } from 'lucide-react'
import { PICTURE_FORMATS } from '#shared/contracts/compare.contract'
import { MenuPanel } from '../../components/controls/ToolMenu'
import { FORMAT_WORDS } from '../../words/rigs'

/** A picture in one of the formats, each named with what its values are. The address takes the format as its last parameter. */
export function SaveMenu({ label, url, word }: { label: string; url: string; word?: string }) {
  return (
    <Menu>
      <MenuButton
        className={
          word
            ? 'inline-flex h-8 items-center gap-1.5 rounded-sm border border-line px-3 hover:bg-mount'
            : 'flex size-6 items-center justify-center rounded-sm hover:bg-mount'
        }
        aria-label={label}
        title={label}
      >
        <Download aria-hidden className="size-3.5" />
        {word}
      </MenuButton>
      <MenuPanel anchor="bottom end" className="w-60">
        {PICTURE_FORMATS.map(format => (
          <MenuItem key={format}>
            <a
              href={`${url}&format=${format}`}
              download
              className="flex w-full items-baseline gap-2 px-3 py-1.5 data-focus:bg-mount"
            >
              {FORMAT_WORDS[format][0]}
              <span className="text-xs text-quiet">{FORMAT_WORDS[format][1]}</span>
            </a>
          </MenuItem>
        ))}
      </MenuPanel>
    </Menu>
  )
}
