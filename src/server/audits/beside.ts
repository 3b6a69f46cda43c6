import { and, desc, eq } from 'drizzle-orm'
import { groupBy } from '#core/group-by'
import type { Beside } from '#shared/contracts/audits.contract'
import { loadRigBook } from '../house/rig-book'
import { openSceneFiles } from '../intake/scene-files'
import { findVersionSource } from '../items/version-source'
import { type Actor, isGuest, mayRead } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { notFound, ProblemError } from '../platform/problem'
import { type KeptAudit, sceneAudits } from '../tables/audit.table'
import { items, versions } from '../tables/library.table'
import { projects } from '../tables/project.table'
import { type AuditRow, describeCodes, getAuditRow } from './audits'

type Working = Context & { compute: ComputePool }
const MOST_LISTED = 200

export async function listAuditedScenes(db: Connection, actor: Actor): Promise<Beside['own'][]> {
  if (isGuest(actor)) return []
  const rows = await db
    .select({ id: sceneAudits.id, title: sceneAudits.title, code: projects.code, createdAt: sceneAudits.createdAt })
    .from(sceneAudits)
    .leftJoin(projects, eq(projects.id, sceneAudits.projectId))
    .where(and(eq(sceneAudits.state, 'ready'), mayRead(actor, sceneAudits.libraryId)))
    .orderBy(desc(sceneAudits.id))
    .limit(MOST_LISTED)
  return rows.map(({ code, createdAt, ...row }) => ({ ...row, project: code ?? '', createdAt: createdAt.toISOString() }))
}

/** What two scenes have both: what makes it look otherwise, those with most to say first. */
export async function getBeside(context: Working, actor: Actor, id: number, otherId: number): Promise<Beside> {
  const { db } = context
  const [own, other] = [await getReady(db, actor, id), await getReady(db, actor, otherId)]
  const materials = pairUp(byCode(own.result), byCode(other.result))
  const models = pairUp(modelsOf(own.result), modelsOf(other.result))
  const lights = pairUp(lightsOf(own.result), lightsOf(other.result))
  const compared = await context.compute.run('compareScenes', {
    scenes: await openBoth(context, own, other),
    pairs: {
      materials: materials.both.map(([mine, theirs]) => ({ own: mine.index, other: theirs.index })),
      models: models.both.map(([own, other]) => ({ own, other })),
      lights: lights.both.map(([mine, theirs]) => ({ own: mine.node, other: theirs.node })),
    },
  })
  const codes = [...materials.both, ...models.both, ...lights.both].flatMap(([{ code }]) => code ?? [])
  const known = await describeCodes(context, actor, codes)
  const scenes = new Map((await listNamed(db, [own, other])).map(s => [s.id, s]))
  const toThing = ([mine, theirs]: [Standing, Standing], changes: Changes) => ({
    code: mine.code,
    name: known.get(mine.code ?? '')?.name || mine.name,
    preview: known.get(mine.code ?? '')?.preview ?? null,
    own: { class: mine.class, version: mine.version },
    other: { class: theirs.class, version: theirs.version },
    changes,
  })
  return {
    own: scenes.get(id)!,
    other: scenes.get(otherId)!,
    materials: materials.both
      .map(([mine, theirs], k) => ({
        code: mine.code,
        itemName: known.get(mine.code)?.name ?? '',
        preview: known.get(mine.code)?.preview ?? null,
        own: toUsed(mine),
        other: toUsed(theirs),
        changes: compared.materials[k],
      }))
      .sort((a, b) => b.changes.length - a.changes.length || (a.code < b.code ? -1 : 1)),
    models: mostFirst(models.both.map((pair, k) => toThing(pair, compared.models[k]))),
    lights: mostFirst(lights.both.map((pair, k) => toThing(pair, compared.lights[k]))),
    views: mostFirst(compared.views),
    onlyOwn: [...materials.onlyOwn, ...models.onlyOwn, ...lights.onlyOwn, ...compared.viewsOnlyOwn],
    onlyOther: [...materials.onlyOther, ...models.onlyOther, ...lights.onlyOther, ...compared.viewsOnlyOther],
  }
}

type Changes = Beside['views'][number]['changes']
type Standing = Pick<KeptAudit['models'][number], 'name' | 'class' | 'code' | 'version' | 'node'>

const mostFirst = <T extends { changes: Changes }>(things: readonly T[]): T[] =>
  things.toSorted((a, b) => b.changes.length - a.changes.length)

/** What both have, and what only one has, by its code or, without one, its name. */
function pairUp<T extends { code: string | null; name: string }>(own: ReadonlyMap<string, T>, other: ReadonlyMap<string, T>) {
  const only = (list: ReadonlyMap<string, T>, without: ReadonlyMap<string, T>) =>
    [...new Set([...list].flatMap(([key, { code, name }]) => (without.has(key) ? [] : [code ?? name])))].sort()
  return {
    both: [...own].flatMap(([key, mine]): [T, T][] => (other.has(key) ? [[mine, other.get(key)!]] : [])),
    onlyOwn: only(own, other),
    onlyOther: only(other, own),
  }
}

/** One of them on its rig, as each scene has it. */
export async function getBesidePictures(context: Working, actor: Actor, id: number, otherId: number, code: string) {
  const { db } = context
  const [own, other] = [await getReady(db, actor, id), await getReady(db, actor, otherId)]
  const [mine, theirs] = [byCode(own.result).get(code), byCode(other.result).get(code)]
  const [version] = await db
    .select({ inputKey: versions.inputKey })
    .from(versions)
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(eq(items.code, code), eq(versions.number, mine?.version ?? 0), mayRead(actor, items.libraryId)))
  const found = version ? await findVersionSource(context, version.inputKey) : null
  if (!mine || !theirs || !found) throw notFound('This material')
  const rig = (await loadRigBook(db)).rigFor(found.category)
  const pair = { own: mine.index, other: theirs.index }
  const scenes = await openBoth(context, own, other)
  const made = await context.compute.run('pictureBeside', { scenes, pair, source: found.source, rig })
  const address = (bytes: Uint8Array) => `data:image/webp;base64,${Buffer.from(bytes).toString('base64')}`
  return { own: address(made.own), other: address(made.other), flipMean: made.flipMean, deltaE00: made.deltaE00 }
}

type ReadyAudit = AuditRow & { result: KeptAudit }
type Material = KeptAudit['materials'][number]

async function getReady(db: Connection, actor: Actor, id: number): Promise<ReadyAudit> {
  const row = await getAuditRow(db, actor, id)
  if (!row.result) throw new ProblemError('notReady', `${row.title} is not read yet; it can be held beside another when it is.`)
  return { ...row, result: row.result }
}

/** Of each item of the library the material that has most surface in a scene. */
function byCode({ materials }: KeptAudit): Map<string, Material & { code: string }> {
  const found = new Map<string, Material & { code: string }>()
  for (const m of materials) {
    const { code } = m
    if (code === null || m.ofModel !== null) continue
    const known = found.get(code)
    if (!known || m.areaM2 > known.areaM2) found.set(code, { ...m, code })
  }
  return found
}

/** Of each model of the library where it stands in a scene, and how many there are. */
function modelsOf({ models }: KeptAudit): Map<string, Standing & { nodes: number[]; count: number }> {
  const found = new Map<string, Standing & { nodes: number[]; count: number }>()
  for (const model of models)
    if (model.code !== null) {
      const known = found.get(model.code)
      if (known) {
        known.nodes.push(model.node)
        known.count += model.uses
      } else found.set(model.code, { ...model, nodes: [model.node], count: model.uses })
    }
  return found
}

/** Lights by item and name; several of the same by their order. */
function lightsOf({ lights }: KeptAudit): Map<string, Standing> {
  const found = new Map<string, Standing>()
  for (const [name, same] of groupBy(lights, light => `${light.code ?? ''} ${light.name}`))
    for (const [k, light] of same.entries()) found.set(`${name} ${k}`, light)
  return found
}

const toUsed = ({ index, name, class: standing, version, areaM2 }: Material) => ({
  index,
  name,
  class: standing,
  version,
  areaM2,
})

const openBoth = async (context: Context, own: AuditRow, other: AuditRow) =>
  [await openSceneFiles(context, own.batchId), await openSceneFiles(context, other.batchId)] as [
    Awaited<ReturnType<typeof openSceneFiles>>,
    Awaited<ReturnType<typeof openSceneFiles>>,
  ]

async function listNamed(db: Connection, rows: readonly AuditRow[]): Promise<Beside['own'][]> {
  const known = await db
    .select({ id: projects.id, code: projects.code })
    .from(projects)
    .where(
      isOneOf(
        projects.id,
        rows.flatMap(r => r.projectId ?? []),
      ),
    )
  const codes = new Map(known.map(p => [p.id, p.code]))
  return rows.map(({ id, title, projectId, createdAt }) => ({
    ...{ id, title, createdAt: createdAt.toISOString() },
    project: codes.get(projectId ?? 0) ?? '',
  }))
}
