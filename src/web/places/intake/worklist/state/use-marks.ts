import { useRef, useState } from 'react'

export interface Marks {
  marked: ReadonlySet<number>
  setMarked: (ids: Iterable<number>) => void
  /** Marks one or takes its mark away; with a range, marks all from the last one to it. */
  mark: (id: number, range: boolean) => void
}

/** Which rows are marked. @param order ids as they stand in the list, for ranges */
export function useMarks(order: () => readonly number[]): Marks {
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set())
  const anchor = useRef<number | null>(null)
  return {
    marked,
    setMarked: ids => setMarked(new Set(ids)),
    mark: (id, range) => {
      const ids = order()
      const next = new Set(marked)
      const [from, to] = [anchor.current === null ? -1 : ids.indexOf(anchor.current), ids.indexOf(id)]
      if (range && from >= 0) for (const between of ids.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(between)
      else if (!next.delete(id)) next.add(id)
      anchor.current = id
      setMarked(next)
    },
  }
}
