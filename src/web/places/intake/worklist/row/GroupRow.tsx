import { memo, type Ref } from 'react'
import { CheckBox } from '../../../../components/controls/CheckBox'
import { plural } from '../../../../words/states'
import type { RowGroup } from '../state/worklist-view'

interface Props {
  ref: Ref<HTMLLIElement>
  index: number
  top: number
  group: RowGroup
  marked: ReadonlySet<number>
  onMark: (ids: Iterable<number>) => void
}

/** The heading of rows that belong together; marking it marks them all, and what is given to the marked is given to them. */
export const GroupRow = memo(function GroupRow({ ref, index, top, group, marked, onMark }: Props) {
  const ids = group.items.filter(i => i.state !== 'accepted').map(i => i.id)
  const held = ids.filter(id => marked.has(id)).length
  const toggle = () => {
    const next = new Set(marked)
    for (const id of ids)
      if (held < ids.length) next.add(id)
      else next.delete(id)
    onMark(next)
  }
  const widths = group.items.filter(i => i.needsWidth).length
  return (
    <li
      ref={ref}
      data-index={index}
      style={{ transform: `translateY(${top}px)` }}
      className="absolute top-0 left-0 flex w-full items-center gap-4 border-b border-edge bg-surround pt-4 pb-1.5"
    >
      <CheckBox
        label={`Mark all under ${group.title}`}
        isLabelHidden
        checked={ids.length > 0 && held === ids.length}
        isPartly={held > 0}
        disabled={ids.length === 0}
        onChange={toggle}
      />
      <h3 className="min-w-0 truncate font-medium" title={group.title}>
        {group.title}
      </h3>
      <span className="shrink-0 text-xs text-quiet">
        {plural(group.items.length, 'item')}
        {widths > 0 && `, ${widths} without a width`}
      </span>
    </li>
  )
})
