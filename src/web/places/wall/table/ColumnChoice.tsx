import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import { ArrowDown, ArrowUp, Columns3 } from 'lucide-react'
import { useState } from 'react'
import { CONTROL } from '../../../components/controls/control-look'
import type { TableColumn } from './table-columns'

interface Props {
  all: readonly TableColumn[]
  /** Ids of those that are shown, in their order. */
  shown: readonly string[]
  onChange: (ids: string[]) => void
  onReset: () => void
}

/** Which columns the table has: those shown first, in their order, then all others by their names. */
export function ColumnChoice({ all, shown, onChange, onReset }: Props) {
  const [letters, setLetters] = useState('')
  const byId = new Map(all.map(c => [c.id, c]))
  const chosen = shown.flatMap(id => byId.get(id) ?? [])
  const others = all.filter(c => !shown.includes(c.id)).sort((a, b) => a.title.localeCompare(b.title))
  const matches = (c: TableColumn) => c.title.toLowerCase().includes(letters.toLowerCase())
  const toggle = (id: string) => {
    const next = shown.includes(id) ? shown.filter(s => s !== id) : [...shown, id]
    if (next.length > 0) onChange(next)
  }
  const move = (id: string, by: -1 | 1) => {
    const ids = chosen.map(c => c.id)
    const from = ids.indexOf(id)
    const to = from + by
    if (to < 0 || to >= ids.length) return
    ;[ids[from], ids[to]] = [ids[to], ids[from]]
    onChange(ids)
  }
  return (
    <Popover>
      <PopoverButton className="inline-flex h-8 items-center gap-1.5 rounded-sm px-2 whitespace-nowrap hover:bg-mount">
        <Columns3 aria-hidden className="size-3.5" />
        Columns
      </PopoverButton>
      <PopoverPanel
        anchor={{ to: 'bottom end', padding: 8 }}
        className="z-50 my-1 flex max-h-96! w-72 flex-col rounded-sm border border-edge bg-mount p-2 shadow-lg focus:outline-none"
      >
        <input
          type="search"
          value={letters}
          onChange={event => setLetters(event.target.value)}
          placeholder={`Among ${all.length} columns`}
          aria-label="Find a column"
          className={`${CONTROL} mb-1 w-full shrink-0`}
        />
        <div className="min-h-0 flex-1 overflow-auto">
          {[...chosen, ...others].filter(matches).map(column => (
            <div key={column.id} className="flex items-center rounded-sm hover:bg-sheet">
              <label className="flex min-w-0 flex-1 cursor-pointer items-center gap-2 px-1 py-1">
                <input
                  type="checkbox"
                  checked={shown.includes(column.id)}
                  onChange={() => toggle(column.id)}
                  className="size-3.5 shrink-0"
                />
                <span className="truncate">{column.title}</span>
              </label>
              {shown.includes(column.id) && letters === '' && (
                <>
                  <button
                    type="button"
                    aria-label={`${column.title} before the one before it`}
                    className="flex size-6 items-center justify-center rounded-sm text-quiet hover:text-ink"
                    onClick={() => move(column.id, -1)}
                  >
                    <ArrowUp aria-hidden className="size-3.5" />
                  </button>
                  <button
                    type="button"
                    aria-label={`${column.title} after the one after it`}
                    className="flex size-6 items-center justify-center rounded-sm text-quiet hover:text-ink"
                    onClick={() => move(column.id, 1)}
                  >
                    <ArrowDown aria-hidden className="size-3.5" />
                  </button>
                </>
              )}
            </div>
          ))}
        </div>
        <button type="button" className="mt-1 shrink-0 self-start px-1 text-xs text-quiet underline" onClick={onReset}>
          The usual columns
        </button>
      </PopoverPanel>
    </Popover>
  )
}
