import { deltaE00 } from '#core/color/difference'
import { oklabToLinear } from '#core/color/oklab'
import type { FindIndex } from '#core/find/find-index'
import type { Look } from '#core/find/looks/look'
import { isLookText, readLookText } from '#core/find/looks/look-text'
import { describeDifference } from '#core/find/looks/look-words'
import type { Asker, ColorWish, LikeWish } from '#core/find/query/find-query'
import { compareLooks } from '#core/find/views/likeness'
import type { Chip } from '#shared/contracts/chip.contract'
import type { Narrowing, WallView } from '#shared/contracts/find.contract'
import { ProblemError } from '../platform/problem'

/** What an address asks to be like, as far as the asker may see it; the first says of which kind. */
export function readLikeWish(index: FindIndex, { like, likeWeights }: Narrowing, asker: Asker): LikeWish {
  const { columns } = index
  const slots = new Map(like.map(text => [text, isLookText(text) ? undefined : slotOfCode(index, text, asker)]))
  const kindOf = (text: string) => {
    const slot = slots.get(text)
    return slot === undefined ? 'material' : columns.terms.kind.valuesOf(slot)[0]
  }
  const kind = kindOf(like[0])
  const looks = like.flatMap(text => {
    if (kindOf(text) !== kind) return []
    const slot = slots.get(text)
    const look = slot === undefined ? readLookText(text) : columns.looks[slot]
    return look ? [look] : []
  })
  if (looks.length === 0)
    throw new ProblemError(
      'badRequest',
      slots.get(like[0]) === undefined && !isLookText(like[0])
        ? `There is no ${like[0]} here that anything could be like.`
        : 'What it looks like is not measured yet; its files may still be on their way through the checks.',
    )
  return { kind, looks, weights: likeWeights }
}

function slotOfCode({ columns }: FindIndex, code: string, { libraries }: Asker): number | undefined {
  const slot = columns.slotOfCode(code)
  return slot !== undefined && libraries.has(columns.terms.library.valuesOf(slot)[0]) ? slot : undefined
}

/** Of each chip how unlike it is to the nearest of what was asked for, and what differs. */
export function describeLikeness(
  index: FindIndex,
  { libraries }: Asker,
  { looks, weights, kind }: LikeWish,
  chips: readonly Chip[],
): WallView['likeness'] {
  const spreads = index.spreads(libraries)
  return chips.map(({ id }) => {
    const slot = index.columns.slotOf(id)
    const look = slot === undefined ? null : index.columns.looks[slot]
    if (!look) return null
    const [nearest] = looks
      .flatMap(wanted => {
        const unlike = compareLooks(wanted, look, weights, spreads)
        return unlike ? [{ wanted, unlike }] : []
      })
      .sort((a, b) => a.unlike.total - b.unlike.total)
    if (!nearest) return null
    return {
      unlike: nearest.unlike.total,
      deltaE: meanDifference(nearest.wanted, look),
      differences: describeDifference(nearest.wanted, look, kind),
    }
  })
}

/** Of each chip how near it comes to the first colour that was asked for, and how much of it does. */
export function describeColors(
  { columns }: FindIndex,
  [wish]: readonly ColorWish[],
  chips: readonly Chip[],
): WallView['likeness'] {
  return chips.map(({ id }) => {
    const slot = columns.slotOf(id)
    const near = slot === undefined ? null : columns.colors.nearness(slot, wish.color, wish.tolerance)
    return near && { unlike: near.deltaE, deltaE: near.deltaE, differences: [], share: near.share }
  })
}

/** ΔE00 of the mean colours. */
function meanDifference(a: Look, b: Look): number | null {
  const [p, q] = [a.groups.color, b.groups.color]
  return p && q ? deltaE00(oklabToLinear(p[0], p[1], p[2]), oklabToLinear(q[0], q[1], q[2])) : null
}
