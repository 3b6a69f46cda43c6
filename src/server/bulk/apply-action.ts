import { eq } from 'drizzle-orm'
import { groupBy } from '#core/group-by'
import type { BulkAction } from '#shared/contracts/bulk.contract'
import type { ItemState } from '#shared/contracts/chip.contract'
import type { BulkResult } from '#shared/contracts/items.contract'
import { carryItems } from '../library/carry-items'
import { editItem, requestFinalPreview, setItemStates } from '../library/edit-items'
import { setItemFacts } from '../library/item-facts'
import { renameItems } from '../library/rename-items'
import { setDots } from '../personal/dots'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { ProblemError } from '../platform/problem'
import { pinItems, unpinItems } from '../projects/projects'
import type { BulkValue } from '../tables/bulk.table'
import { items } from '../tables/library.table'
import { AS_IT_IS } from './read-values'

/** In the place of no value, where things are put together by their values. */
const NONE = ''

/** Gives items the values wanted of them, each the same as through its own sheet, with its event and its rights. */
export async function applyValues(
  context: Context,
  actor: Actor,
  action: BulkAction,
  wanted: readonly BulkValue[],
): Promise<BulkResult> {
  const result: BulkResult = { changed: [], refused: [] }
  const add = ({ changed, refused }: BulkResult) => {
    result.changed.push(...changed)
    result.refused.push(...refused)
  }
  const groups = groupBy(wanted, w => w.value ?? NONE)
  const idsOf = (value: string) => (groups.get(value) ?? []).map(w => w.id)
  switch (action.do) {
    case 'state':
      for (const value of groups.keys()) {
        const [state, approved] = String(value).split('|')
        const done = await setItemStates(context, actor, idsOf(String(value)), state as ItemState)
        // Taken back, an approval leaves no version behind that a project could pin.
        if (approved !== AS_IT_IS)
          await context.db
            .update(items)
            .set({ approvedVersionId: approved === '' ? null : Number(approved) })
            .where(isOneOf(items.id, done.changed))
        add(done)
      }
      return result
    case 'category':
      for (const { id, value } of wanted) add(await tryOne(context, id, () => editItem(context, actor, id, { category: value! })))
      return result
    case 'library':
      for (const library of groups.keys()) {
        const { changed, refused } = await carryItems(context, actor, { ids: idsOf(library), library, as: 'move' })
        add({ changed, refused })
      }
      return result
    case 'fact':
    case 'propose':
    case 'words': {
      const name = action.do === 'fact' ? action.fact : action.list
      add(
        await setItemFacts(
          context,
          actor,
          wanted.map(({ id, value }) => ({ id, facts: { [name]: value } })),
        ),
      )
      return result
    }
    case 'names':
    case 'replace':
      add(
        await renameItems(
          context,
          actor,
          wanted.flatMap(({ id, value }) => (value === null ? [] : [{ id, name: value }])),
        ),
      )
      return result
    case 'finals':
      for (const id of idsOf('yes')) add(await tryOne(context, id, () => requestFinalPreview(context, actor, id)))
      return result
    case 'dot': {
      const { color } = action
      for (const on of [true, false]) {
        const ids = idsOf(on ? 'yes' : NONE)
        if (ids.length > 0) add({ changed: await setDots(context.db, actor, { ids, color, on }), refused: [] })
      }
      return result
    }
    case 'pin': {
      if (groups.has('yes')) add(await pinItems(context, actor, action.projectId, idsOf('yes')))
      if (groups.has(NONE)) {
        await unpinItems(context, actor, action.projectId, idsOf(NONE))
        result.changed.push(...idsOf(NONE))
      }
      return result
    }
    default:
      return action satisfies never
  }
}

/** One of many: what cannot be done to it is told of it, and the others go on. */
async function tryOne(context: Context, id: number, act: () => Promise<void>): Promise<BulkResult> {
  try {
    await act()
    return { changed: [id], refused: [] }
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error
    const [item] = await context.db.select({ code: items.code }).from(items).where(eq(items.id, id))
    return { changed: [], refused: [{ id, code: item?.code ?? '', reason: error.message }] }
  }
}
