import { useState } from 'react'
import { z } from 'zod'
import { readRemembered, remember } from '../../../state/remembered'
import { USUAL_COLUMNS } from './table-columns'

const keptSchema = z.object({ ids: z.array(z.string()).min(1), widths: z.record(z.string(), z.number()) })
const KEY = 'table columns'

/** Which columns the table shows, in which order and how wide; kept by the browser. */
export function useShownColumns() {
  const [kept, setKept] = useState(() => readRemembered(KEY, keptSchema, { ids: [...USUAL_COLUMNS], widths: {} }))
  const keep = (next: typeof kept) => {
    setKept(next)
    remember(KEY, next)
  }
  return {
    ids: kept.ids,
    widths: kept.widths,
    setIds: (ids: string[]) => keep({ ...kept, ids }),
    setWidths: (widths: Record<string, number>) => keep({ ...kept, widths }),
    reset: () => keep({ ids: [...USUAL_COLUMNS], widths: {} }),
  }
}
