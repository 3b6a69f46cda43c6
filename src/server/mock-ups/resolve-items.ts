import { eq, type SQL, sql } from 'drizzle-orm'
import { listRefs, refKey } from '#core/mock-up/materials/list-refs'
import type { ItemRef, Scene } from '#core/mock-up/scene/scene'
import type { ItemKind } from '#core/standard/categories'
import type { ItemState } from '#shared/contracts/chip.contract'
import type { VersionFile } from '#shared/contracts/items.contract'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { getChips } from '../library/chips'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { ProblemError } from '../platform/problem'
import { files } from '../tables/library.table'

type Row = Pick<MockUpItem, 'name' | 'category' | 'widthMm' | 'tiling' | 'constants'> & {
  /** Of the reference that was asked for. */
  n: number
  id: number | null
  code: string
  version: number
  versionId: number
  inputKey: string
  kind: ItemKind
  itemState: ItemState
  newer: ItemRef | null
  facts: Record<string, string | number | boolean> | null
  files: (Omit<VersionFile, 'url'> & { position: number })[] | null
}

/** What a version is looked up by: itself where it is known, else whatever has its inputs. */
const selectItems = (actor: Actor, wanted: SQL) => sql`
  select r.n, x.* from (${wanted}) r left join lateral (
    select i.id, i.code, i.name, i.kind, i.category::text as category, i.state as "itemState", v.id as "versionId", v.number as version,
      v.input_key as "inputKey", v.width_mm as "widthMm", v.tiling, v.constants,
      case when a.number > v.number and a.input_key <> v.input_key then
        jsonb_build_object('code', i.code, 'version', a.number, 'inputKey', a.input_key) end as newer,
      (select jsonb_object_agg(f.name, coalesce(to_jsonb(f.number), to_jsonb(f.text), to_jsonb(f.truth))) from facts f
        where f.version_id = v.id and f.name = any(${sql.param(NEEDED_FACTS)}::text[])) as facts,
      (select jsonb_agg(jsonb_build_object('path', f.path, 'role', f.role, 'size', b.size, 'hash', f.hash, 'mediaType', b.media_type,
          'handednessHint', f.handedness_hint, 'position', f.position) order by f.position)
        from version_files f join files b on b.hash = f.hash where f.version_id = v.id) as files
    from versions v join items i on i.id = v.item_id left join versions a on a.id = i.approved_version_id
    where v.input_key = r.input_key and (r.version_id is null or v.id = r.version_id) and ${mayRead(actor, sql`i.library_id`)}
    order by (i.code = r.code and v.number = r.version) desc, i.id limit 1
  ) x on true order by r.n`

const NEEDED_FACTS = [
  ...['normalMapHandedness', 'maker', 'licence', 'sunPresent', 'sunAzimuthDeg', 'sunElevationDeg'],
  ...['widthM', 'heightM', 'depthM'],
]

/** What a mock-up shows to the asker: what its references mean, and the model that is its stage. */
export async function resolveScene(context: Context, actor: Actor, mockUpId: number, scene: Scene): Promise<MockUpItem[]> {
  const items = await resolveRefs(context, actor, listRefs(scene))
  if (scene.stage.kind !== 'model') return items
  const { key, name } = scene.stage.model
  const [file] = await context.db.select().from(files).where(eq(files.hash, key))
  if (!file) return items
  const { size, mediaType } = file
  const url = `/api/mock-ups/${mockUpId}/stage?key=${key}`
  return [
    ...items,
    {
      ...hidden({ code: 'stage', version: 1, inputKey: key }),
      state: 'approved',
      name,
      files: [{ path: 'stage.glb', role: 'model', size, hash: key, mediaType, handednessHint: null, url }],
    },
  ]
}

/** What a scene's references mean to the asker, in their order. */
export async function resolveRefs({ db, pool }: Context, actor: Actor, refs: readonly ItemRef[]): Promise<MockUpItem[]> {
  if (refs.length === 0) return []
  const wanted = sql`
    select r.n, r.code, r.version, r."inputKey" as input_key, null::int as version_id
    from jsonb_to_recordset(${JSON.stringify(refs.map((r, n) => ({ n, ...r })))}::jsonb) as r(n int, code text, version int, "inputKey" text)`
  const { rows } = await db.execute<Row & Record<string, unknown>>(selectItems(actor, wanted))
  return toItems(pool, actor, rows, refs)
}

/** Items as they are brought in: at the version that is approved, else at the newest. Those one may not see are left out. */
export async function findItems({ db, pool }: Context, actor: Actor, ids: readonly number[]): Promise<MockUpItem[]> {
  const wanted = sql`
    select w.n, i.code, v.number as version, v.input_key, v.id as version_id
    from unnest(${sql.param([...ids])}::int[]) with ordinality w(id, n)
    join items i on i.id = w.id join versions v on v.id = coalesce(i.approved_version_id, i.current_version_id)`
  const { rows } = await db.execute<Row & Record<string, unknown>>(selectItems(actor, wanted))
  const found = rows.filter(r => r.id !== null)
  return toItems(
    pool,
    actor,
    found,
    found.map(({ code, version, inputKey }) => ({ code, version, inputKey })),
  )
}

async function toItems(
  pool: Context['pool'],
  actor: Actor,
  rows: readonly Row[],
  refs: readonly ItemRef[],
): Promise<MockUpItem[]> {
  const known = rows.filter(r => r.id !== null)
  const chips = await getChips(pool, actor, [...new Set(known.map(r => r.id!))], new Map(known.map(r => [r.id!, r.versionId])))
  const pictures = new Map(chips.map(c => [c.id, c.preview]))
  return rows.map((row, k) => (row.id === null ? hidden(refs[k]) : toItem(row, refs[k], pictures.get(row.id) ?? null)))
}

/** Whatever it is, nothing is said of it but what the scene says itself. */
const hidden = (ref: ItemRef): MockUpItem => ({
  ref,
  state: 'hidden',
  id: null,
  name: ref.code,
  kind: 'model',
  category: '',
  newer: null,
  preview: null,
  widthMm: null,
  tiling: 'repeat',
  constants: {},
  handedness: null,
  files: [],
  maker: '',
  licence: '',
  sizeM: null,
  sun: null,
})

function toItem(row: Row, ref: ItemRef, preview: string | null): MockUpItem {
  const { id, name, kind, category, itemState, newer, widthMm, tiling, constants, versionId } = row
  const facts = row.facts ?? {}
  const { normalMapHandedness: handedness, sunAzimuthDeg, sunElevationDeg } = facts
  const hasSun = facts.sunPresent === true && typeof sunAzimuthDeg === 'number' && typeof sunElevationDeg === 'number'
  return {
    ref,
    state: itemState,
    id,
    name,
    kind,
    category,
    newer,
    preview,
    widthMm,
    tiling,
    constants,
    handedness: handedness === 'openGl' || handedness === 'directX' ? handedness : null,
    files: (row.files ?? []).map(({ position, ...file }) => ({ ...file, url: `/api/versions/${versionId}/files/${position}` })),
    maker: String(facts.maker ?? ''),
    licence: String(facts.licence ?? ''),
    sizeM: sizeOf(facts),
    sun: hasSun ? { azimuthDeg: sunAzimuthDeg, elevationDeg: sunElevationDeg } : null,
  }
}

/**
 * Refuses what a mock-up may not show: what the asker may not see, and, where others see it too, what is of another client's library.
 * @param libraryId of those who see the mock-up; null where it is for its owner alone
 * @throws ProblemError that names them
 */
export async function assertMayShow(
  db: Connection,
  actor: Actor,
  refs: readonly ItemRef[],
  libraryId: number | null,
): Promise<void> {
  if (refs.length === 0) return
  const seen = (of: SQL) => mayRead(actor, sql`${of}.library_id`)
  const open = (of: SQL, library: SQL) =>
    sql`(${seen(of)} and (${libraryId}::int is null or ${library}.kind = 'house' or ${library}.id = ${libraryId}))`
  const [i, l, n, m] = ['i', 'l', 'n', 'm'].map(name => sql.raw(name))
  // By what it holds, and by what it is called: a code of an item that others may not see is not told to them either.
  const { rows } = await db.execute<{ code: string; isSeen: boolean; isOpen: boolean }>(sql`
    select r.code, bool_or(${seen(i)}) and bool_and(n.id is null or ${seen(n)}) as "isSeen",
      bool_or(${open(i, l)}) and bool_and(n.id is null or ${open(n, m)}) as "isOpen"
    from jsonb_to_recordset(${JSON.stringify(refs)}::jsonb) as r(code text, version int, "inputKey" text)
    left join versions v on v.input_key = r."inputKey" left join items i on i.id = v.item_id left join libraries l on l.id = i.library_id
    left join items n on n.code = r.code left join libraries m on m.id = n.library_id
    group by r.code`)
  const codes = (list: typeof rows) => list.map(r => r.code).join(', ')
  const unseen = rows.filter(r => !r.isSeen)
  if (unseen.length > 0) throw new ProblemError('badRequest', `Not there, or not yours to see: ${codes(unseen)}.`)
  const closed = rows.filter(r => !r.isOpen)
  if (closed.length > 0)
    throw new ProblemError(
      'badRequest',
      `${codes(closed)} ${closed.length === 1 ? 'is' : 'are'} in a client's library that not everybody sees who sees this mock-up.`,
    )
}

/** References of one scene that another has not. */
export const newRefs = (before: readonly ItemRef[], after: readonly ItemRef[]): ItemRef[] => {
  const known = new Set(before.map(refKey))
  return after.filter(ref => !known.has(refKey(ref)))
}

function sizeOf({ widthM, heightM, depthM }: NonNullable<Row['facts']>): MockUpItem['sizeM'] {
  const known = typeof widthM === 'number' && typeof heightM === 'number' && typeof depthM === 'number'
  return known ? [widthM, heightM, depthM] : null
}
