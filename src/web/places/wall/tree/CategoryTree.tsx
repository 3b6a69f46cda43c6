import { ChevronDown, ChevronRight, X } from 'lucide-react'
import { type DragEvent, type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react'
import type { Category } from '#shared/contracts/items.contract'
import { toBranches } from '../../../components/controls/category-branches'
import { CONTROL } from '../../../components/controls/control-look'
import { isCarrying, readCarried } from '../carried-items'
import { listLines, parentOf, waysTo } from './visible-branches'

interface Props {
  categories: readonly Category[]
  /** Items of the view under each. */
  counts: Readonly<Record<string, number>>
  value: string
  onChange: (path: string) => void
  /** Items were let go on a category; null for whoever may not move any. */
  onDropItems: ((ids: number[], category: Category) => void) | null
  onClose: () => void
}

/** The house tree beside the wall: where one stands, how much of the view lies where, and a place to move items to. */
export function CategoryTree({ categories, counts, value, onChange, onDropItems, onClose }: Props) {
  const branches = useMemo(() => toBranches(categories), [categories])
  const [words, setWords] = useState('')
  const [open, setOpen] = useState<ReadonlySet<string>>(() => new Set(waysTo(value)))
  // Wherever one goes by another way, the tree shows it.
  useEffect(() => setOpen(before => new Set([...before, ...waysTo(parentOf(value))])), [value])
  const lines = listLines(branches, open, words)
  const [focused, setFocused] = useState(value)
  const [over, setOver] = useState<string | null>(null)
  const list = useRef<HTMLDivElement>(null)
  const setOpened = (path: string, isOpen: boolean) =>
    setOpen(before => {
      const next = new Set(before)
      if (isOpen) next.add(path)
      else next.delete(path)
      return next
    })
  const focus = (path: string | undefined) => {
    if (path === undefined) return
    setFocused(path)
    list.current?.querySelector<HTMLElement>(`[data-branch="${path}"]`)?.focus()
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const at = lines.findIndex(l => l.path === focused)
    const line = lines[at]
    switch (event.key) {
      case 'ArrowDown':
        focus(at < 0 ? lines[0]?.path : lines[at + 1]?.path)
        break
      case 'ArrowUp':
        focus(at === 0 ? '' : lines[at - 1]?.path)
        break
      case 'ArrowRight':
        if (line?.hasBelow && !line.isOpen) setOpened(line.path, true)
        else if (line?.hasBelow) focus(lines[at + 1]?.path)
        break
      case 'ArrowLeft':
        if (line?.isOpen) setOpened(line.path, false)
        else if (line) focus(parentOf(line.path))
        break
      case 'Home':
        focus('')
        break
      case 'End':
        focus(lines.at(-1)?.path)
        break
      default:
        return
    }
    event.preventDefault()
  }
  const dropOn = (path: string) =>
    onDropItems && {
      onDragOver: (event: DragEvent) => {
        if (!isCarrying(event)) return
        event.preventDefault()
        event.dataTransfer.dropEffect = 'move'
        setOver(path)
      },
      onDragLeave: () => setOver(null),
      onDrop: (event: DragEvent) => {
        if (!isCarrying(event)) return
        event.preventDefault()
        event.stopPropagation()
        setOver(null)
        const category = categories.find(c => c.path === path)
        const ids = readCarried(event)
        if (category && ids.length > 0) onDropItems(ids, category)
      },
    }
  const tabStop = lines.some(l => l.path === focused) ? focused : ''
  return (
    <aside aria-label="Categories" className="flex h-full min-w-0 flex-col pl-6">
      <div className="flex shrink-0 items-center gap-1 pb-1">
        <input
          type="search"
          value={words}
          onChange={event => setWords(event.target.value)}
          onKeyDown={event => {
            if (event.key === 'ArrowDown') {
              event.preventDefault()
              focus(lines[0]?.path)
            }
          }}
          placeholder={`Among ${categories.length} categories`}
          aria-label="Find a category"
          className={`${CONTROL} h-7 w-full`}
        />
        <button
          type="button"
          onClick={onClose}
          title="Put the tree away (T)"
          aria-label="Put the tree away"
          className="flex size-7 shrink-0 items-center justify-center rounded-sm text-quiet hover:bg-mount hover:text-ink"
        >
          <X aria-hidden className="size-3.5" />
        </button>
      </div>
      <div
        ref={list}
        role="tree"
        aria-label="House tree"
        tabIndex={-1}
        onKeyDown={onKeyDown}
        className="min-h-0 flex-1 overflow-auto pb-4"
      >
        {words === '' && (
          <TreeItem
            path=""
            title="Everything"
            depth={0}
            isChosen={value === ''}
            isTabStop={tabStop === ''}
            onChoose={() => onChange('')}
            onFocus={() => setFocused('')}
          />
        )}
        {lines.map(line => (
          <TreeItem
            key={line.path}
            {...line}
            count={counts[line.path] ?? 0}
            isChosen={value === line.path}
            isTabStop={tabStop === line.path}
            isTarget={over === line.path}
            onChoose={() => onChange(line.path)}
            onOpen={line.hasBelow ? () => setOpened(line.path, !line.isOpen) : undefined}
            onFocus={() => setFocused(line.path)}
            dropping={dropOn(line.path) ?? undefined}
          />
        ))}
        {words !== '' && lines.length === 0 && <p className="py-2 text-quiet">No category of this name.</p>}
      </div>
    </aside>
  )
}

interface ItemProps {
  path: string
  title: string
  depth: number
  /** Of the top there is none: the wall says it. */
  count?: number
  isChosen: boolean
  isTabStop: boolean
  /** Something is held over it. */
  isTarget?: boolean
  isOpen?: boolean
  onChoose: () => void
  onOpen?: () => void
  onFocus: () => void
  dropping?: Pick<React.HTMLAttributes<HTMLElement>, 'onDragOver' | 'onDragLeave' | 'onDrop'>
}

const TreeItem = ({
  path,
  title,
  depth,
  count,
  isChosen,
  isTabStop,
  isTarget,
  isOpen,
  onChoose,
  onOpen,
  onFocus,
  dropping,
}: ItemProps) => (
  <div
    {...dropping}
    role="treeitem"
    aria-level={depth + 1}
    aria-selected={isChosen}
    aria-expanded={onOpen ? isOpen : undefined}
    data-branch={path}
    tabIndex={isTabStop ? 0 : -1}
    onFocus={onFocus}
    onClick={onChoose}
    onKeyDown={event => {
      if (event.key !== 'Enter' && event.key !== ' ') return
      event.preventDefault()
      onChoose()
    }}
    className={`flex h-7 cursor-pointer items-center gap-1 rounded-sm pr-2 hover:bg-mount ${isChosen ? 'bg-mount font-medium' : ''} ${isTarget ? 'outline-2 -outline-offset-2 outline-ink' : ''} ${count === 0 ? 'text-quiet' : ''}`}
    style={{ paddingLeft: `${depth * 0.875}rem` }}
  >
    {onOpen ? (
      <button
        type="button"
        tabIndex={-1}
        aria-label={`${isOpen ? 'Close' : 'Open'} ${title}`}
        onClick={event => {
          event.stopPropagation()
          onOpen()
        }}
        className="flex size-5 shrink-0 items-center justify-center text-quiet hover:text-ink"
      >
        {isOpen ? <ChevronDown aria-hidden className="size-3.5" /> : <ChevronRight aria-hidden className="size-3.5" />}
      </button>
    ) : (
      <span aria-hidden className="size-5 shrink-0" />
    )}
    <span className="min-w-0 truncate" title={title}>
      {title}
    </span>
    {count !== undefined && <span className="figures ml-auto shrink-0 pl-2 text-xs text-quiet">{count}</span>}
  </div>
)
