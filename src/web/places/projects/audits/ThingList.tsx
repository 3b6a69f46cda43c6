import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef } from 'react'
import { CLASS_WORDS } from '#shared/audit-words'
import { CheckBox } from '../../../components/controls/CheckBox'
import type { Thing } from './ThingView'

export const keyOfThing = (t: Thing): string => `${t.kind} ${t.kind === 'material' ? t.index : t.node}`

/** Of a line of two rows of text, px. */
const LINE_HEIGHT = 48

interface Props {
  things: readonly Thing[]
  current: Thing | undefined
  /** Keys of those that are to be left as they are. */
  left: ReadonlySet<string>
  onOpen: (key: string) => void
  onMark: (key: string, isOn: boolean) => void
}

/** What is in a scene; of thousands those lines are there that one sees. */
export function ThingList({ things, current, left, onOpen, onMark }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({
    count: things.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 8,
  })
  const at = current ? things.indexOf(current) : -1
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' })
  }, [at, virtual])
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto border-t border-line">
      <ul aria-label="In the scene" className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const thing = things[index]
          const key = keyOfThing(thing)
          return (
            <ThingLine
              key={key}
              thing={thing}
              top={start}
              isCurrent={thing === current}
              isMarked={!left.has(key)}
              onOpen={() => onOpen(key)}
              onMark={on => onMark(key, on)}
            />
          )
        })}
      </ul>
    </div>
  )
}

interface LineProps {
  thing: Thing
  /** Where it stands in the list, px. */
  top: number
  isCurrent: boolean
  isMarked: boolean
  onOpen: () => void
  onMark: (on: boolean) => void
}

function ThingLine({ thing: t, top, isCurrent, isMarked, onOpen, onMark }: LineProps) {
  return (
    <li
      className={`absolute inset-x-0 flex items-center gap-2 border-b border-line pl-2 ${isCurrent ? 'bg-sheet' : ''}`}
      style={{ top, height: LINE_HEIGHT }}
    >
      {t.isCorrectable ? (
        <CheckBox label={`Put back ${t.name}`} isLabelHidden checked={isMarked} onChange={onMark} />
      ) : (
        <span className="w-4 shrink-0" />
      )}
      <button type="button" aria-current={isCurrent} onClick={onOpen} className="min-w-0 flex-1 py-1.5 pr-2 text-left">
        <span className="flex items-baseline gap-2">
          <span className="min-w-0 flex-1 truncate font-medium">{t.name || 'without a name'}</span>
          <span className={`shrink-0 text-xs ${t.class === 'pinned' ? 'text-quiet' : 'font-medium'}`}>
            {CLASS_WORDS[t.class]}
          </span>
        </span>
        <span className="flex gap-2 text-xs text-quiet">
          <span>{t.kind === 'model' && t.uses > 1 ? `${t.uses} models` : t.kind}</span>
          {t.code !== null && (
            <span className="figures">
              {t.code} v{t.version}
            </span>
          )}
        </span>
      </button>
    </li>
  )
}
