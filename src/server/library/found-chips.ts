import type { Chip } from '#shared/contracts/chip.contract'
import type { Actor } from '../platform/access'
import type { Context, KnownAsker } from '../platform/context'
import { getChips } from './chips'

/**
 * Chips of items that a search has found for an asker, so that nothing has to be asked about who may see them; those that were read
 * before are not read again.
 */
export async function getFoundChips(
  { pool, finder }: Pick<Context, 'pool' | 'finder'>,
  actor: Actor,
  { sets }: KnownAsker,
  ids: readonly number[],
): Promise<Chip[]> {
  const kept = finder.chips
  const { stamp } = kept
  const missing = ids.filter(id => kept.get(id) === undefined)
  const read = new Map((await getChips(pool, actor, missing)).map(chip => [chip.id, chip]))
  kept.keep(stamp, [...read.values()])
  const dots = new Map<number, number[]>(ids.map(id => [id, []]))
  for (const [color, marked] of sets.dot) for (const id of marked) dots.get(id)?.push(Number(color))
  return ids.flatMap(id => {
    const chip = read.get(id) ?? kept.get(id)
    return chip ? [{ ...chip, dots: (dots.get(id) ?? []).sort() }] : []
  })
}
