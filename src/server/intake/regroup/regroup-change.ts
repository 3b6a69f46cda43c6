import { and, eq, ne } from 'drizzle-orm'
import { claimedType, extensionOf, isModelType, isPhotometryType, isPictureType } from '#core/codecs/sniff'
import { stemWords, tokenizeName } from '#core/file-names'
import { groupBy } from '#core/group-by'
import type { Tiling } from '#core/material/open-pbr'
import { parseMapName } from '#core/material/texture-set'
import { type ItemKind, proposeTitle } from '#core/standard/categories'
import { proposeCategory } from '#core/standard/propose-category'
import { isMapRole } from '#files/items/item-source'
import { followRetired, loadRetired } from '../../house/categories'
import { computeInputKey } from '../../items/input-key'
import { type Connection, isOneOf } from '../../platform/database'
import { notFound, ProblemError } from '../../platform/problem'
import { type BatchItemFile, batchFiles, batchItems, type Conflict } from '../../tables/intake.table'
import { type BatchItemRow, deliveredFiles } from '../rows'
import type { LearnedWord } from './role-words'

/** What a regrouping changed, as it was before: enough to put it back. */
export interface Snapshot {
  rows: BatchItemRow[]
  /** Rows that the regrouping made. */
  made: number[]
  /** The word that a role was learned by. */
  learned?: LearnedWord | string | null
  files: { path: string; outcome: 'inItem' | 'leftOver'; code: string | null }[]
}

/** One regrouping under way: what it does is written into the snapshot that undoes it. */
export class RegroupChange {
  readonly toMeasure: number[] = []

  constructor(
    private readonly tx: Connection,
    private readonly batchId: number,
    private readonly snapshot: Snapshot,
  ) {}

  async split(row: BatchItemRow, paths: readonly string[]): Promise<void> {
    const { mine, rest } = this.divide(row, paths)
    if (rest.length === 0) throw new ProblemError('badRequest', 'These are all files of the row; nothing would be left of it.')
    await this.setFiles(row, rest)
    await this.makeRow(mine, { sourceFolder: row.sourceFolder, tags: row.tags, widthMm: row.widthMm })
  }

  async merge(rows: readonly BatchItemRow[], order: readonly number[]): Promise<void> {
    const [first, ...others] = order.map(id => rows.find(r => r.id === id)!)
    if (others.length === 0) throw new ProblemError('badRequest', 'Mark two rows or more to make one of them.')
    if (others.some(r => r.kind !== first.kind)) throw new ProblemError('badRequest', 'Only rows of one kind can become one.')
    const sheet = wholeSheet([first, ...others])
    const files = sheet ?? others.reduce((all, row) => joinFiles(all, deliveredFiles(row)), deliveredFiles(first))
    await this.tx.delete(batchItems).where(
      isOneOf(
        batchItems.id,
        others.map(r => r.id),
      ),
    )
    const tags = [...new Set([first, ...others].flatMap(r => r.tags))]
    if (sheet)
      await this.setFiles({ ...first, tags, name: first.name.replace(/ \d+$/, ''), givenFacts: withoutCut(first) }, files)
    else await this.setFiles({ ...first, tags }, files)
  }

  async leave(row: BatchItemRow, paths: readonly string[]): Promise<void> {
    const { rest } = this.divide(row, paths)
    await this.setOutcome(paths, 'leftOver', 'byHand')
    if (rest.some(f => isMainRole(f.role))) await this.setFiles(row, rest)
    else {
      // Nothing is left that could be an item.
      await this.setOutcome(
        rest.map(f => f.path),
        'leftOver',
        'byHand',
      )
      await this.tx.delete(batchItems).where(eq(batchItems.id, row.id))
    }
  }

  /** Files that lay beside the rows go into one, or become a row of their own. */
  async take(row: BatchItemRow | null, paths: readonly string[]): Promise<void> {
    const given = await this.tx
      .select()
      .from(batchFiles)
      .where(and(eq(batchFiles.batchId, this.batchId), isOneOf(batchFiles.path, [...paths]), eq(batchFiles.outcome, 'leftOver')))
    const files = given.flatMap(f => (f.hash === null ? [] : [toItemFile(f.path, f.hash, row?.kind ?? null)]))
    if (files.length === 0) throw new ProblemError('badRequest', 'These files are in a row already, or did not arrive whole.')
    await this.setOutcome(
      files.map(f => f.path),
      'inItem',
      null,
    )
    if (row?.state === 'accepted') await this.addVersionRow(row, joinFiles(deliveredFiles(row), files))
    else if (row) await this.setFiles(row, joinFiles(deliveredFiles(row), files))
    else await this.makeRow(files, { sourceFolder: '', tags: [], widthMm: null })
  }

  async setRole(row: BatchItemRow, path: string, role: string): Promise<void> {
    const files = deliveredFiles(row)
    if (!files.some(f => f.path === path)) throw notFound('This file')
    const next = files.map(f => {
      if (f.path === path) return { ...f, role, byContentOnly: false }
      // One map for each role: the one that had it stands aside.
      return f.role === role && isMapRole(role) ? { ...f, role: 'alternate' } : f
    })
    await this.setFiles(row, next)
  }

  /** Of every map the one that comes nearest to a size without passing it; the others stand aside, or are left out. */
  async chooseSize(row: BatchItemRow, px: number, leaveRest: boolean, sizes: ReadonlyMap<string, number>): Promise<void> {
    const files = deliveredFiles(row)
    const sized = files.filter(file => sizedRole(file, row.kind) !== null)
    const groups = groupBy(sized, file => sizedRole(file, row.kind)!)
    const roles = new Map<string, string>()
    for (const [role, group] of groups) {
      if (group.length < 2) continue
      const chosen = nearestSize(group, px, sizes)
      for (const file of group) roles.set(file.path, file === chosen ? role : 'alternate')
    }
    const next = files.map(f => ({ ...f, role: roles.get(f.path) ?? f.role }))
    const aside = leaveRest ? next.filter(f => f.role === 'alternate' && roles.has(f.path)).map(f => f.path) : []
    if (aside.length > 0) await this.setOutcome(aside, 'leftOver', 'byHand')
    const kept = next.filter(f => !aside.includes(f.path))
    if (JSON.stringify(kept) !== JSON.stringify(files)) await this.setFiles(row, kept)
  }

  /** Rows of one flat picture become materials of it, or maps by themselves; rows that are more than that stay. */
  async setKind(rows: readonly BatchItemRow[], kind: 'material' | 'map', tiling: Tiling): Promise<void> {
    const fitting = rows.flatMap(row => {
      const files = row.kind === kind ? null : asKind(row, kind)
      return files ? [{ row, files }] : []
    })
    if (fitting.length === 0)
      throw new ProblemError('badRequest', `None of these is one flat picture that could become a ${kind}.`)
    const retired = await loadRetired(this.tx)
    for (const { row, files } of fitting) {
      const words = tokenizeName(row.name)
      const { path, confidence } = proposeCategory(kind, { words, folders: row.sourceFolder.split(' / '), facts: {} })
      const category = followRetired(path, retired)
      await this.setFiles({ ...row, kind, category, categoryConfidence: confidence, tiling }, files)
    }
  }

  /** Leaves all files of some roles out of a row; what makes it an item stays. */
  async leaveRoles(row: BatchItemRow, roles: readonly string[]): Promise<void> {
    const files = deliveredFiles(row)
    const rest = files.filter(f => !roles.includes(f.role))
    if (rest.length === files.length || !rest.some(f => isMainRole(f.role))) return
    const left = files.filter(f => roles.includes(f.role)).map(f => f.path)
    await this.setOutcome(left, 'leftOver', 'byHand')
    await this.setFiles(row, rest)
  }

  /** Beside a row that was accepted another one, of its files and more: the next version of what it became. */
  private async addVersionRow(row: BatchItemRow, files: BatchItemFile[]): Promise<void> {
    const { id: _, itemId, ...given } = row
    if (itemId === null) throw notFound('What this row was accepted as')
    const conflict: Conflict = { kind: 'newerFiles', itemId, differentBits: null }
    const [made] = await this.tx
      .insert(batchItems)
      .values({
        ...given,
        files,
        sourceFiles: null,
        appliedFixes: [],
        facts: {},
        findings: [],
        state: 'measuring',
        message: null,
        conflict,
        decision: 'newVersion',
        previousVersionId: null,
        inputKey: computeInputKey({ ...row, files }),
      })
      .returning({ id: batchItems.id })
    this.snapshot.made.push(made.id)
    this.toMeasure.push(made.id)
  }

  private divide(row: BatchItemRow, paths: readonly string[]) {
    const files = deliveredFiles(row)
    const mine = files.filter(f => paths.includes(f.path))
    if (mine.length === 0) throw notFound('This file')
    return { mine, rest: files.filter(f => !paths.includes(f.path)) }
  }

  private async setFiles(row: BatchItemRow, files: BatchItemFile[]): Promise<void> {
    await this.tx
      .update(batchItems)
      .set({
        files,
        tags: row.tags,
        name: row.name,
        kind: row.kind,
        category: row.category,
        categoryConfidence: row.categoryConfidence,
        tiling: row.tiling,
        givenFacts: row.givenFacts,
        sourceFiles: null,
        fixes: [],
        appliedFixes: [],
        facts: {},
        findings: [],
        conflict: null,
        decision: null,
        message: null,
        state: 'measuring',
        inputKey: computeInputKey({ ...row, files }),
      })
      .where(eq(batchItems.id, row.id))
    this.toMeasure.push(row.id)
  }

  private async makeRow(
    files: BatchItemFile[],
    more: { sourceFolder: string; tags: string[]; widthMm: number | null },
  ): Promise<void> {
    const kind = kindOf(files)
    const main = files.find(f => isMainRole(f.role)) ?? files[0]
    const words = kind === 'material' ? parseMapName(main.path).stem.split(' ').filter(Boolean) : stemWords(main.path)
    const known = { words, folders: more.sourceFolder.split(' / '), facts: {} }
    const { path, confidence } = proposeCategory(kind, known)
    const category = followRetired(path, await loadRetired(this.tx))
    const ready = files.map(f => (kind === 'material' ? f : f === main ? { ...f, role: kind } : f))
    const [row] = await this.tx
      .insert(batchItems)
      .values({
        batchId: this.batchId,
        kind,
        name: proposeTitle(words),
        category,
        categoryConfidence: confidence,
        constants: {},
        files: ready,
        inputKey: computeInputKey({ files: ready, widthMm: more.widthMm, constants: {} }),
        ...more,
      })
      .returning({ id: batchItems.id })
    this.snapshot.made.push(row.id)
    this.toMeasure.push(row.id)
  }

  private async setOutcome(paths: readonly string[], outcome: 'inItem' | 'leftOver', code: 'byHand' | null): Promise<void> {
    if (paths.length === 0) return
    const where = and(
      eq(batchFiles.batchId, this.batchId),
      isOneOf(batchFiles.path, [...paths]),
      ne(batchFiles.outcome, 'failed'),
    )
    const before = await this.tx.select().from(batchFiles).where(where)
    for (const { path, outcome: was, code: wasCode } of before)
      this.snapshot.files.push({ path, outcome: was === 'leftOver' ? 'leftOver' : 'inItem', code: wasCode })
    await this.tx.update(batchFiles).set({ outcome, code }).where(where)
  }
}

const isMainRole = (role: string): boolean =>
  isMapRole(role) || ['model', 'environment', 'photometry', 'definition', 'map'].includes(role)

/** The sheet that all of these stamps were cut from, by itself; null where they are not of one. */
function wholeSheet(rows: readonly BatchItemRow[]): BatchItemFile[] | null {
  const sheets = rows.map(row => (row.givenFacts.cutOut === undefined ? undefined : sheetOf(row)))
  const [first] = sheets
  return first && sheets.every(s => s?.hash === first.hash) ? [{ ...first, role: 'map' }] : null
}

/** Before a stamp is cut out, its file is the sheet. */
const sheetOf = (row: BatchItemRow): BatchItemFile | undefined => {
  const files = deliveredFiles(row)
  return files.find(f => f.role === 'original') ?? files.find(f => f.role === 'map')
}

const withoutCut = ({ givenFacts: { cutOut: _, ...rest } }: BatchItemRow): BatchItemRow['givenFacts'] => rest

/** The files of a row as those of the other kind; null where it is not one flat picture. */
function asKind(row: BatchItemRow, kind: 'material' | 'map'): BatchItemFile[] | null {
  const files = deliveredFiles(row)
  const shown = files.filter(f => isMainRole(f.role))
  // What its alpha was made into is its alpha again.
  const own = kind === 'map' ? shown.filter(f => f.role !== 'opacity' || shown.length === 1) : shown
  const [main] = own
  if (own.length !== 1 || !(main.role === 'map' || isMapRole(main.role))) return null
  return files
    .filter(f => f === main || !shown.includes(f))
    .map(f => (f === main ? { ...f, role: kind === 'map' ? 'map' : 'baseColor', byContentOnly: false } : f))
}

/** A second map of a role stands beside the first as another size of it. */
function joinFiles(first: readonly BatchItemFile[], second: readonly BatchItemFile[]): BatchItemFile[] {
  const roles = new Set(first.map(f => f.role))
  return [
    ...first,
    ...second.map(f => (isMainRole(f.role) && roles.has(f.role) ? { ...f, role: f.role === 'model' ? 'lod' : 'alternate' } : f)),
  ]
}

const kindOf = (files: readonly BatchItemFile[]): ItemKind => {
  const types = files.map(f => claimedType(f.path))
  if (types.some(isModelType)) return 'model'
  if (files.some(f => f.role === 'environment') || types.includes('hdr')) return 'environment'
  return types.some(isPhotometryType) && !files.some(f => isMapRole(f.role)) ? 'light' : 'material'
}

/** A file that lay beside the rows, with the role that its name and where it goes suggest. */
function toItemFile(path: string, hash: string, kind: ItemKind | null): BatchItemFile {
  const ending = extensionOf(path)
  const { role, handedness } = parseMapName(path)
  const type = claimedType(path)
  const isPicture = isPictureType(type) || type === 'exr'
  const given =
    isModelType(type) && kind !== 'material'
      ? 'model'
      : isPhotometryType(type)
        ? 'photometry'
        : ending === 'hdr' || (ending === 'exr' && !role)
          ? 'environment'
          : isPicture
            ? kind === 'model'
              ? 'modelPart'
              : (role ?? (kind === null ? 'baseColor' : 'picture'))
            : ending === 'mtl' || ending === 'bin'
              ? 'modelPart'
              : 'document'
  return { path, hash, role: given, byContentOnly: false, handednessHint: handedness }
}

/** What a file is among others of another size; null for what has no sizes. */
function sizedRole({ path, role }: BatchItemFile, kind: ItemKind): string | null {
  if (kind === 'environment') return role === 'environment' || role === 'alternate' ? 'environment' : null
  if (kind === 'model') return role === 'model' || (role === 'alternate' && isModelType(claimedType(path))) ? 'model' : null
  return isMapRole(role) ? role : role === 'alternate' ? parseMapName(path).role : null
}

/** The largest that is not larger than wanted; where all are, the smallest. */
function nearestSize(group: readonly BatchItemFile[], px: number, sizes: ReadonlyMap<string, number>): BatchItemFile {
  const sizeOf = (file: BatchItemFile) => sizes.get(file.path) ?? parseMapName(file.path).claimedPx ?? 0
  const bySize = [...group].sort((a, b) => sizeOf(b) - sizeOf(a))
  return bySize.find(f => sizeOf(f) <= px) ?? bySize.at(-1)!
}
