import type { SetCells, SetCellsResult } from '#shared/contracts/table.contract'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { setItemFacts } from './item-facts'
import { renameItems } from './rename-items'

/** Names and given facts of many items at once, as a table has them; each with its event, as through the sheet. */
export async function setCells(context: Context, actor: Actor, wishes: SetCells['items']): Promise<SetCellsResult> {
  const told = wishes.filter(w => Object.keys(w.facts).length > 0)
  const named = wishes.flatMap(({ id, name }) => (name === undefined ? [] : [{ id, name }]))
  const { changed, refused, before } =
    told.length > 0 ? await setItemFacts(context, actor, told) : { changed: [], refused: [], before: [] }
  const cells = new Map(before.map(b => [b.id, b as SetCells['items'][number]]))
  const all = new Set(changed)
  if (named.length > 0) {
    const renamed = await renameItems(context, actor, named)
    for (const { id, name } of renamed.before) {
      all.add(id)
      cells.set(id, { facts: {}, ...cells.get(id), id, name })
    }
    refused.push(...renamed.refused.filter(r => !refused.some(o => o.id === r.id)))
  }
  return { changed: [...all], refused, before: [...cells.values()] }
}
