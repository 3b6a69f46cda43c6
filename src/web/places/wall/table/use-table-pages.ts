import { skipToken } from '@reduxjs/toolkit/query/react'
import { useMemo, useRef } from 'react'
import type { TableRow, TableView } from '#shared/contracts/table.contract'
import { useGetTableQuery } from '../../../state/api'
import { PAGE, setPart, type WallAddress } from '../wall-address'

/** Pages of the table that were read, by their first line. */
export class TablePages {
  constructor(readonly pages: ReadonlyMap<number, TableView>) {}

  rowAt(index: number): TableRow | undefined {
    const offset = Math.floor(index / PAGE) * PAGE
    return this.pages.get(offset)?.rows[index - offset]
  }
}

/** Pages in sight and no others, two at most. Until the first of another view is there, the one before stays. */
export function useTablePages(address: WallAddress, facts: string, first: number, last: number): TablePages {
  const offset = Math.floor(first / PAGE) * PAGE
  const argsOf = (from: number) => ({ ...setPart(address), ...(facts ? { facts } : {}), offset: from, limit: PAGE })
  const here = useGetTableQuery(argsOf(offset)).currentData
  const next = useGetTableQuery(offset + PAGE <= last ? argsOf(offset + PAGE) : skipToken).currentData
  const kept = useRef(new TablePages(new Map()))
  return useMemo(() => {
    const read = [here, next].flatMap((page, k) => (page ? [[offset + k * PAGE, page] as const] : []))
    if (read.length > 0) kept.current = new TablePages(new Map(read))
    return kept.current
  }, [here, next, offset])
}
