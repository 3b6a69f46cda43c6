import type { TermFacet } from '#core/find/query/facets'
import { withAncestors } from '#core/find/query/find-query'
import { suggest } from '#core/find/suggest'
import { foldText } from '#core/find/words/fold-words'
import type { FacetValue, Narrowing, SuggestionsView } from '#shared/contracts/find.contract'
import { toValues } from '../find/describe-facets'
import { findView } from '../find/find-view'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { getFoundChips } from './found-chips'

type Finding = Pick<Context, 'db' | 'pool' | 'finder'>
const MOST_VALUES = 60

/** What somebody who types may mean. */
export async function suggestWords(context: Finding, actor: Actor, given: Narrowing): Promise<SuggestionsView> {
  const { asker, query } = await findView(context, actor, { ...given, order: 'best' })
  const { categoryTitles } = context.finder
  const { values, items, ...found } = suggest(await context.finder.current(), query, asker, { category: categoryTitles }, q =>
    context.finder.find(q, asker),
  )
  return {
    ...found,
    values: values.map(v => ({ ...v, title: v.facet === 'category' ? (categoryTitles.get(v.value) ?? v.value) : v.value })),
    items: await getFoundChips(context, actor, asker, items),
  }
}

/** Values of a facet in a view that hold some letters. */
export async function listFacetValues(
  context: Finding,
  actor: Actor,
  { facet, letters, ...given }: Narrowing & { facet: TermFacet; letters: string },
): Promise<FacetValue[]> {
  const { asker, view } = await findView(context, actor, given)
  const counts = view.facets().terms[facet] ?? new Map<string, number>()
  const values = toValues(facet, facet === 'category' ? withAncestors(counts) : counts, asker)
  const wanted = foldText(letters)
  return values.filter(v => foldText(v.title).includes(wanted)).slice(0, MOST_VALUES)
}
