import { sql } from 'drizzle-orm'
import { LRUCache } from 'lru-cache'
import { FindIndex } from '#core/find/find-index'
import type { FindQuery } from '#core/find/query/find-query'
import type { FoundView } from '#core/find/views/found-view'
import { loadRetired } from '../house/categories'
import { loadRules } from '../house/load-rules'
import { loadWordLines } from '../house/load-word-lines'
import type { Actor } from '../platform/access'
import type { Finder, KnownAsker } from '../platform/context'
import { type Database, inChunks } from '../platform/database'
import { ReadTogether } from '../platform/read-together'
import { categories, type itemChanges } from '../tables/library.table'
import { loadAsker } from './asker'
import { ChipCache } from './kept-chips'
import { loadFindables } from './load-findables'

/** Changes are kept for a day; who slept longer reads everything anew. */
const LONGEST_SLEEP_MS = 12 * 3600 * 1000
const SWEEP_MS = 3600 * 1000
/** Taking in so many items holds up other requests for a quarter of a second at most, on two slow cores. */
const READ_AT_ONCE = 400
/** By their arrays some 300 KB each at 50,000 items, more where much is found. */
const KEPT_VIEWS = 200
const NOTHING: ReadonlyMap<void, void> = new Map()

interface Change extends Record<string, unknown> {
  changedIn: string
  what: (typeof itemChanges.$inferSelect)['what']
  id: number
}

/**
 * The library as it is searched, in this server's memory, and never behind what is committed: whoever asks first learns what has changed
 * since the last time. Transactions are told by their numbers. All that ended since are those numbered from the lowest that was still
 * running then, and what of these was taken in already is remembered, so that none is missed however long it ran.
 * Source: PostgreSQL manual, "Transaction ID and Snapshot Information Functions".
 */
export class LibraryFinder implements Finder {
  private index = new FindIndex()
  private horizon: string | null = null
  private takenIn = new Set<string>()
  private caughtUpAt = 0
  private sweptAt = Date.now()
  private titles: ReadonlyMap<string, string> = new Map()
  retired: ReadonlyMap<string, string> = new Map()
  readonly chips = new ChipCache()
  private readonly askers = new Map<number, Promise<KnownAsker>>()
  /** Who reads already may have begun before the change that matters to the next. */
  private readonly reading = new ReadTogether<void, void>(async () => {
    await this.catchUp()
    return NOTHING
  })
  private readonly views = new LRUCache<string, FoundView>({ max: KEPT_VIEWS })

  constructor(private readonly db: Database) {}

  /** The index with everything that was committed before this was asked. */
  async current(): Promise<FindIndex> {
    await this.reading.get()
    return this.index
  }

  async asker(actor: Actor): Promise<KnownAsker> {
    await this.current()
    let asker = this.askers.get(actor.id)
    if (!asker) {
      asker = loadAsker(this.db, actor)
      this.askers.set(actor.id, asker)
      asker.catch(() => this.askers.delete(actor.id))
    }
    return asker
  }

  find(query: FindQuery, asker: KnownAsker): FoundView {
    const key = `${this.index.revision} ${asker.key} ${JSON.stringify(query)}`
    const kept = this.views.get(key)
    if (kept) return kept
    const view = this.index.find(query, asker)
    this.views.set(key, view)
    return view
  }

  /** Titles of categories by path. */
  get categoryTitles(): ReadonlyMap<string, string> {
    return this.titles
  }

  private async catchUp(): Promise<void> {
    if (this.horizon === null || Date.now() - this.caughtUpAt > LONGEST_SLEEP_MS) await this.readEverything()
    else {
      const { rows } = await this.db.execute<Change & { horizon: string }>(sql`
        with now as materialized (select pg_snapshot_xmin(pg_current_snapshot()) as horizon)
        select n.horizon::text as horizon, c.changed_in::text as "changedIn", c.what, c.id
        from now n left join (select distinct changed_in, what, id from item_changes where changed_in >= ${this.horizon}::xid8) c on true`)
      await this.takeIn(rows.filter(r => r.changedIn !== null))
      this.horizon = rows[0].horizon
    }
    this.caughtUpAt = Date.now()
    if (this.caughtUpAt - this.sweptAt > SWEEP_MS) {
      this.sweptAt = this.caughtUpAt
      await this.db.execute(sql`delete from item_changes where at < now() - interval '1 day'`)
    }
  }

  private async takeIn(changes: readonly Change[]): Promise<void> {
    const keyOf = ({ changedIn, what, id }: Change) => `${changedIn} ${what} ${id}`
    const fresh = changes.filter(c => !this.takenIn.has(keyOf(c)))
    const ids = new Set(fresh.filter(c => c.what === 'item').map(c => c.id))
    if (fresh.some(c => c.what === 'words')) for (const id of await this.readHouseWords(this.index)) ids.add(id)
    if (ids.size > 0) await this.readItems([...ids], this.index)
    const seen = fresh.filter(c => c.what === 'item' || c.what === 'chip').map(c => c.id)
    if (fresh.some(c => c.what === 'rigs' || c.what === 'words' || c.what === 'access')) this.chips.forgetAll()
    else if (seen.length > 0) this.chips.forget(seen)
    // Whoever asks next is read anew.
    if (fresh.some(c => c.what === 'access')) this.askers.clear()
    for (const { what, id } of fresh) if (what === 'person') this.askers.delete(id)
    // Only now: what broke off on the way is taken in again.
    this.takenIn = new Set(changes.map(keyOf))
  }

  private async readEverything(): Promise<void> {
    const { rows } = await this.db.execute<{ horizon: string }>(
      sql`select pg_snapshot_xmin(pg_current_snapshot())::text as horizon`,
    )
    const index = new FindIndex()
    // A view of before must not be taken for one of the new index.
    index.revision = this.index.revision + 1
    await this.readHouseWords(index)
    const { rows: ids } = await this.db.execute<{ id: number }>(sql`select id from items order by id`)
    await this.readItems(
      ids.map(r => r.id),
      index,
    )
    this.index = index
    this.takenIn = new Set()
    this.askers.clear()
    this.chips.forgetAll()
    this.horizon = rows[0].horizon
  }

  /** The house's own words, and what categories are called. Returns ids of what stands in one that is called otherwise now. */
  private async readHouseWords(index: FindIndex): Promise<number[]> {
    const [rows, rules, retired, lines] = await Promise.all([
      this.db.select({ path: categories.path, title: categories.title }).from(categories),
      loadRules(this.db),
      loadRetired(this.db),
      loadWordLines(this.db),
    ])
    this.retired = retired
    const before = this.titles
    this.titles = new Map(rows.map(r => [r.path, r.title]))
    const own = [...rules.values()].flatMap(r => (r.tags ?? []).map(tag => [tag.word, ...tag.synonyms]))
    index.setVocabulary([...lines.map(line => line.words), ...own])
    const renamed = rows.filter(r => before.has(r.path) && before.get(r.path) !== r.title).map(r => r.path)
    if (renamed.length === 0) return []
    const { rows: within } = await this.db.execute<{ id: number }>(
      sql`select id from items where category <@ any(${sql.param(renamed)}::ltree[])`,
    )
    return within.map(r => r.id)
  }

  /** In parts, so that other requests are answered in between; while one is taken in, the next two are fetched. */
  private async readItems(ids: readonly number[], index: FindIndex): Promise<void> {
    const parts = [...inChunks(ids, READ_AT_ONCE)]
    const load = (part: number[] | undefined) => {
      const loading = part ? loadFindables(this.db, part, this.titles) : Promise.resolve([])
      // It is waited for below; until then its failure is nobody's.
      loading.catch(() => {})
      return loading
    }
    const coming = [load(parts[0]), load(parts[1])]
    for (const [k, part] of parts.entries()) {
      const found = await coming.shift()!
      coming.push(load(parts[k + 2]))
      const there = new Set(found.map(f => f.id))
      index.removeAll(part.filter(id => !there.has(id)))
      index.putAll(found)
    }
  }
}
