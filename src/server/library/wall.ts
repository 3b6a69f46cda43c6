import { asc, isNull } from 'drizzle-orm'
import { labToLinear } from '#core/color/ciede2000'
import { toHex } from '#core/color/srgb'
import type { FindIndex } from '#core/find/find-index'
import { type Asker, type FindQuery, withAncestors } from '#core/find/query/find-query'
import type { FoundView } from '#core/find/views/found-view'
import type { Chip } from '#shared/contracts/chip.contract'
import {
  type ColorMap,
  MOST_COLOR_POINTS,
  type Narrowing,
  type NothingFound,
  narrowingSchema,
  type WallQuery,
  type WallView,
  wallQuerySchema,
} from '#shared/contracts/find.contract'
import type { Category } from '#shared/contracts/items.contract'
import { describeFacets } from '../find/describe-facets'
import { findView } from '../find/find-view'
import { describeColors, describeLikeness } from '../find/likeness'
import { loadRigBook } from '../house/rig-book'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import { categories } from '../tables/library.table'
import { getFoundChips } from './found-chips'

type Finding = Pick<Context, 'db' | 'pool' | 'finder'>

/** Nearest items of an empty view. */
const MOST_NEAR = 12
const MOST_WORDS = 4

/** A page of chips; with the first all counts, and what may help where nothing was found. */
export async function getWall(context: Finding, actor: Actor, given: WallQuery): Promise<WallView> {
  const { asker, query, view } = await findView(context, actor, given)
  const chips = await getFoundChips(context, actor, asker, view.page(given.offset, given.limit))
  return {
    total: view.total,
    chips,
    likeness: describeNearness(await context.finder.current(), asker, query, chips),
    groups: given.offset === 0 ? groupsOf(view) : null,
    facets: given.offset === 0 && given.counts === 'yes' ? describeFacets(view, given, asker) : null,
    takenFor: view.takenFor(),
    nothing: view.total === 0 ? await describeNothing(context, actor, given, view) : null,
  }
}

/**
 * Approved materials that look most like something from outside the library, the likest first; none where its look says nothing.
 * @param look as a text to search by; of a plain one colour counts, and pattern hardly
 */
export async function findLikeLook(
  context: Finding,
  actor: Actor,
  look: { text: string; isPlain: boolean },
  limit: number,
): Promise<{ code: string; unlike: number }[]> {
  const query = wallQuerySchema.parse({
    ...{ like: look.text, likeWeights: look.isPlain ? 'pattern:0.1' : '' },
    ...{ kind: 'material', state: 'approved', counts: 'no', offset: 0, limit },
  })
  try {
    const { chips, likeness } = await getWall(context, actor, query)
    return chips.flatMap(({ code }, k) => {
      const near = likeness?.[k]
      return near ? [{ code, unlike: near.unlike }] : []
    })
  } catch (problem) {
    if (!(problem instanceof ProblemError)) throw problem
    return []
  }
}

function describeNearness(
  index: FindIndex,
  asker: Asker,
  { like, colors }: FindQuery,
  chips: readonly Chip[],
): WallView['likeness'] {
  if (like) return describeLikeness(index, asker, like, chips)
  return colors.length > 0 ? describeColors(index, colors, chips) : null
}

/** Where the items of a view lie among all colours; those without one are left out. */
export async function getColorMap(context: Finding, actor: Actor, given: Narrowing): Promise<ColorMap> {
  const { view } = await findView(context, actor, given)
  const { columns } = await context.finder.current()
  const map: ColorMap = { colorless: 0, beyond: 0, points: [] }
  for (const id of view.ids()) {
    const slot = columns.slotOf(id)
    const lab = slot === undefined ? null : columns.colors.largestOf(slot)
    if (slot === undefined || !lab) map.colorless++
    else if (map.points.length === MOST_COLOR_POINTS) map.beyond++
    else {
      const [lightness, a, b] = lab
      const [chroma, hueDeg] = [Math.hypot(a, b), (Math.atan2(b, a) * (180 / Math.PI) + 360) % 360]
      const [code, name] = [columns.codeOf(slot), columns.nameOf(slot)]
      map.points.push({ id, code, name, lightness, chroma, hueDeg, hex: toHex(labToLinear(...lab)) })
    }
  }
  return map
}

const groupsOf = (view: FoundView): WallView['groups'] => view.groups()?.map(({ value, count }) => ({ value, count })) ?? null

/** Which single condition stands in the way, which words are like those typed, what comes nearest. */
async function describeNothing(context: Finding, actor: Actor, given: WallQuery, view: FoundView): Promise<NothingFound> {
  const index = await context.finder.current()
  const { asker, view: withoutWords } = await findView(context, actor, { ...given, words: '' })
  const words = view.unfoundWords().flatMap(typed =>
    index.columns.words
      .findAlike(typed, index.vocabulary)
      .filter(word => !/\d/.test(word))
      .map(word => ({ typed, word, count: withoutWords.countWord(word) }))
      .filter(w => w.count > 0),
  )
  return {
    drops: view.drops(),
    words: words.slice(0, MOST_WORDS),
    nearest: await getFoundChips(context, actor, asker, view.nearest(MOST_NEAR)),
  }
}

/** The house tree with what the asker may see in each place. */
export async function listCategories(context: Pick<Finding, 'db' | 'finder'>, actor: Actor): Promise<Category[]> {
  const { db } = context
  const [{ view }, rows, book] = await Promise.all([
    findView(context, actor, narrowingSchema.parse({})),
    db.select().from(categories).where(isNull(categories.retiredInto)).orderBy(asc(categories.position)),
    loadRigBook(db),
  ])
  const counts = withAncestors(view.facets().terms.category ?? new Map())
  return rows.map(({ path, title, kind, prefix }) => ({
    path,
    title,
    kind,
    prefix,
    rig: book.rigFor(path).name,
    count: counts.get(path) ?? 0,
  }))
}
