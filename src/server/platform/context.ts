import type pg from 'pg'
import type { FindIndex } from '#core/find/find-index'
import type { Asker, FindQuery } from '#core/find/query/find-query'
import type { FoundView } from '#core/find/views/found-view'
import type { Chip } from '#shared/contracts/chip.contract'
import type { Actor } from './access'
import type { Database } from './database'
import type { FetchOutside } from './fetch-outside'
import type { JobQueue } from './queue'
import type { Storage } from './storage/storage'

/** Somebody who searches: what they may see, with the sets that they have of it. */
export interface KnownAsker extends Asker {
  /** The same for two who find the same. */
  key: string
  /** By their ids. */
  libraryNames: ReadonlyMap<string, { id: number; key: string; title: string; kind: string }>
  /** By code. */
  projects: ReadonlyMap<string, { id: number; title: string; libraryId: number }>
}

/** What was read of items, forgotten when they change. What was asked for before a change and comes after it is not kept. */
export interface KeptChips {
  get(id: number): Chip | undefined
  /** Changes whenever something is forgotten. */
  readonly stamp: number
  keep(stamp: number, chips: readonly Chip[]): void
}

/** The library as it is searched, never behind what is committed. */
export interface Finder {
  current(): Promise<FindIndex>
  /** Somebody as they are now, with everything current. */
  asker(actor: Actor): Promise<KnownAsker>
  /** What a query finds in what was current when the asker was asked for; kept, so that pages of one view are worked out once. */
  find(query: FindQuery, asker: KnownAsker): FoundView
  /** Chips that were read, by item, until something that they show has changed. */
  readonly chips: KeptChips
  /** By path. */
  readonly categoryTitles: ReadonlyMap<string, string>
  /** Where categories that were merged lead. */
  readonly retired: ReadonlyMap<string, string>
}

/** What every use case works with. */
export interface Context {
  db: Database
  /** Of the same database; for locks that outlast a transaction. */
  pool: pg.Pool
  storage: Storage
  queue: JobQueue
  fetchOutside: FetchOutside
  finder: Finder
}
