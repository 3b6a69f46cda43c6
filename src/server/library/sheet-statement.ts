import type { CategoryRules } from '#core/standard/category-rules'
import type { OwnLine } from '#core/standard/word-lines'
import type { FactValue } from '#files/items/inspect-item'
import type { Sheet } from '#shared/contracts/items.contract'
import { RIG_BOOK_COLUMNS, type RigBookRow } from '../house/rig-book'
import { visibleTo } from '../platform/access'
import { prepare } from '../platform/statement'
import type { findings, items, previews, versions } from '../tables/library.table'
import type { ownPictures } from '../tables/own-picture.table'
import type { targetFidelity } from '../tables/rig.table'

/** A row as JSON has it: times are texts. */
type AsJson<Row> = { [K in keyof Row]: Row[K] extends Date ? string : Row[K] extends Date | null ? string | null : Row[K] }

type Item = AsJson<
  Pick<
    typeof items.$inferSelect,
    'id' | 'code' | 'name' | 'kind' | 'category' | 'state' | 'currentVersionId' | 'approvedVersionId'
  >
> & { library: string }
type Version = AsJson<
  Pick<typeof versions.$inferSelect, 'id' | 'number' | 'note' | 'createdAt' | 'widthMm' | 'tiling' | 'constants' | 'inputKey'>
> & { author: string }
type Picture = AsJson<typeof ownPictures.$inferSelect> & { by: string }

export interface SheetRow extends RigBookRow {
  item: Item
  /** The newest first. */
  history: Version[]
  shown: number
  copiedFrom: Sheet['copiedFrom']
  formerCodes: string[]
  dots: number[]
  facts: [string, FactValue][]
  findings: AsJson<typeof findings.$inferSelect>[]
  files: (Omit<Sheet['files'][number], 'url'> & { position: number })[]
  events: (Omit<Sheet['events'][number], 'person'> & { person: string | null })[]
  projects: Sheet['projects']
  pictures: AsJson<typeof previews.$inferSelect>[]
  fidelity: AsJson<typeof targetFidelity.$inferSelect>[]
  turntable: number | null
  ownPictures: Picture[]
  rules: Record<string, CategoryRules>
  wordLines: OwnLine[]
}

/** The columns of a table as an object with the names that the program has for them. */
const asObject = (alias: string, columns: Record<string, string>): string =>
  `jsonb_build_object(${Object.entries(columns)
    .map(([name, column]) => `'${name}', ${alias}.${column}`)
    .join(', ')})`

const same = (...names: string[]): Record<string, string> => Object.fromEntries(names.map(n => [n, n]))

const list = (what: string, from: string, order: string): string =>
  `(select coalesce(jsonb_agg(${what} order by ${order}), '[]') from ${from})`

const VERSION = {
  ...same('id', 'number', 'note', 'tiling', 'constants'),
  createdAt: 'created_at',
  widthMm: 'width_mm',
  inputKey: 'input_key',
}
const FINDING = { ...same('id', 'code', 'severity', 'subject', 'evidence'), beforeHash: 'before_hash', afterHash: 'after_hash' }
const PREVIEW = {
  ...same('id', 'rig', 'quality', 'seed', 'hash', 'width', 'height', 'samples', 'seconds', 'contrast', 'coverage'),
  inputKey: 'input_key',
  rigRevision: 'rig_revision',
  rendererRevision: 'renderer_revision',
  achievedError: 'achieved_error',
  convergedShare: 'converged_share',
  fireflyShare: 'firefly_share',
  backdropAlbedo: 'backdrop_albedo',
  linearHash: 'linear_hash',
  createdAt: 'created_at',
}
const FIDELITY = { ...same('id', 'target', 'lost'), meanFlip: 'mean_flip', p95Flip: 'p95_flip', deltaE: 'delta_e' }
const PICTURE = {
  ...same('id', 'state', 'reason', 'hash', 'width', 'height', 'score', 'faults'),
  versionId: 'version_id',
  fileName: 'file_name',
  originalWidth: 'original_width',
  originalHeight: 'original_height',
  createdAt: 'created_at',
}

/** The item that has a code, or had it in a library that the asker may see. */
const ID_OF_CODE = `
  select coalesce((select id from items where code = $1),
    (select c.item_id from former_codes c where c.code = $1 and c.library_id in (${visibleTo('$3')})))`

/** Everything that a sheet shows, in one statement. No row where there is no such item, or no such version, that the asker may see. */
export const selectSheet = prepare<SheetRow, [string, number | null, number]>(
  'sheet',
  `with item as (
     select i.id, i.code, i.name, i.kind, i.category::text as category, i.state, i.current_version_id, i.approved_version_id, i.copied_from_id,
       l.title as library
     from items i join libraries l on l.id = i.library_id
     where i.id = (${ID_OF_CODE}) and i.library_id in (${visibleTo('$3')})
   ), shown as (
     select v.* from versions v, item
     where v.item_id = item.id and (case when $2::int is null then v.id = item.current_version_id else v.number = $2 end)
   )
   select
     ${asObject('item', { ...same('id', 'code', 'name', 'kind', 'category', 'state', 'library'), currentVersionId: 'current_version_id', approvedVersionId: 'approved_version_id' })} as item,
     ${list(`${asObject('v', VERSION)} || jsonb_build_object('author', p.name)`, 'versions v join people p on p.id = v.author_id where v.item_id = item.id', 'v.number desc')} as history,
     shown.id as shown,
     (select jsonb_build_object('code', o.code, 'name', o.name, 'versionNumber', v.number)
      from versions v left join items o on o.id = v.item_id and o.library_id in (${visibleTo('$3')})
      where v.id = item.copied_from_id) as "copiedFrom",
     ${list('to_jsonb(c.code)', `former_codes c where c.item_id = item.id and c.library_id in (${visibleTo('$3')})`, 'c.code')} as "formerCodes",
     ${list('d.color', 'dots d where d.item_id = item.id and d.person_id = $3', 'd.color')} as dots,
     ${list('jsonb_build_array(f.name, coalesce(to_jsonb(f.number), to_jsonb(f.text), to_jsonb(f.truth), \'""\'::jsonb))', 'told_facts f where f.version_id = shown.id', 'f.position')} as facts,
     ${list(asObject('f', FINDING), 'findings f where f.version_id = shown.id', 'f.id')} as findings,
     ${list(`${asObject('f', { ...same('path', 'role', 'hash', 'position'), handednessHint: 'handedness_hint' })} || ${asObject('b', { size: 'size', mediaType: 'media_type' })}`, 'version_files f join files b on b.hash = f.hash where f.version_id = shown.id', 'f.position')} as files,
     ${list(
       `${asObject('e', same('id', 'at', 'verb', 'before', 'after'))} || jsonb_build_object('person', e.person)`,
       `(
       select e.*, p.name as person from events e left join people p on p.id = e.person_id
       where e.subject = 'item' and e.subject_id = item.id order by e.id desc limit 30) e`,
       'e.id desc',
     )} as events,
     ${list(
       `${asObject('p', same('id', 'code', 'title'))} || jsonb_build_object('versionNumber', v.number)`,
       `pins
       join projects p on p.id = pins.project_id join versions v on v.id = pins.version_id
       where pins.item_id = item.id and p.library_id in (${visibleTo('$3')})`,
       'p.code',
     )} as projects,
     ${list(asObject('p', PREVIEW), 'previews p where p.input_key = shown.input_key', 'p.id desc')} as pictures,
     ${list(asObject('t', FIDELITY), 'target_fidelity t where t.input_key = shown.input_key', 't.id')} as fidelity,
     (select t.id from turntables t where t.input_key = shown.input_key order by t.renderer_revision desc, t.id desc limit 1) as turntable,
     ${list(`${asObject('o', PICTURE)} || jsonb_build_object('by', p.name)`, 'own_pictures o join people p on p.id = o.person_id where o.version_id = shown.id and o.dropped_at is null', 'o.id')} as "ownPictures",
     (select coalesce(jsonb_object_agg(r.category, r.rules), '{}') from category_rules r) as rules,
     ${list(asObject('w', { ...same('id', 'replaces', 'words'), isUse: 'is_use' }), 'word_lines w', 'w.id')} as "wordLines",
     ${RIG_BOOK_COLUMNS}
   from item, shown`,
)
