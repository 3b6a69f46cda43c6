import { skipToken } from '@reduxjs/toolkit/query/react'
import { useMemo, useRef } from 'react'
import type { Chip } from '#shared/contracts/chip.contract'
import type { WallView } from '#shared/contracts/find.contract'
import { useGetWallQuery } from '../../state/api'
import { likenessWord } from './likeness-words'
import { PAGE, setPart, type WallAddress } from './wall-address'

/** Pages of the wall that were read, by their first place. */
export class WallPages {
  /** @param view what was asked for, as a text */
  constructor(
    readonly view: string,
    readonly pages: ReadonlyMap<number, WallView>,
  ) {}

  chipAt(index: number): Chip | undefined {
    const offset = pageOf(index)
    return this.pages.get(offset)?.chips[index - offset]
  }

  /** What stands in the place of a chip's figure, where things to be like were asked for. */
  noteAt(index: number): string {
    const offset = pageOf(index)
    return likenessWord(this.pages.get(offset)?.likeness?.[index - offset])
  }
}

const pageOf = (index: number): number => Math.floor(index / PAGE) * PAGE

/**
 * Pages in sight and no others, four at most: more chips than that fit on no screen. Until the first page of another view is there, the one
 * before stays.
 */
export function useWallPages(address: WallAddress, first: number, last: number): WallPages {
  const offsets = [0, 1, 2, 3].map(k => pageOf(first) + k * PAGE).filter(offset => offset <= last)
  const argsOf = (offset: number | undefined) =>
    offset === undefined ? skipToken : { ...setPart(address), counts: 'no' as const, offset, limit: PAGE }
  const a = useGetWallQuery(argsOf(offsets[0])).currentData
  const b = useGetWallQuery(argsOf(offsets[1])).currentData
  const c = useGetWallQuery(argsOf(offsets[2])).currentData
  const d = useGetWallQuery(argsOf(offsets[3])).currentData
  const kept = useRef(new WallPages('', new Map()))
  const offset = offsets[0] ?? 0
  const view = JSON.stringify(address)
  return useMemo(() => {
    const read = [a, b, c, d].flatMap((page, k) => (page ? [[offset + k * PAGE, page] as const] : []))
    if (read.length > 0) kept.current = new WallPages(view, new Map(read))
    return kept.current
  }, [a, b, c, d, offset, view])
}
