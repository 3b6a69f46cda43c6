import { type AuditedLight, auditLight, LightIndex } from '#core/audit/audit-light'
import { type AuditedMaterial, auditMaterial, MaterialIndex } from '#core/audit/audit-material'
import { type AuditedModel, auditModel, ModelIndex } from '#core/audit/audit-model'
import { REPEAT_STEP, sayMetres } from '#core/audit/compare-uses'
import { doubtName } from '#core/audit/how-it-lies'
import { standsInFrame } from '#core/audit/model-print'
import type { AuditClass } from '#core/audit/reference'
import { listThings } from '#core/audit/scene-tree'
import { readStamp, type Stamp } from '#core/stamp'
import type { SourceFile } from '../reading/source-file'
import { withScene } from './gather-scene'
import { type PrintedVersion, referencesOf } from './print-item'
import { readLooks, type SceneLook } from './read-looks'
import { readScene, type SceneInventory, type SceneMaterialUse } from './read-scene'
import type { SceneFile } from './scene-file'

interface MarkedCopy {
  /** Whether its stamp says that it was taken along to be changed. */
  isCopy: boolean
}

export interface SceneAudit {
  form: string
  triangles: number
  materials: (AuditedMaterial & MarkedCopy & Pick<SceneMaterialUse, 'index' | 'areaM2' | 'places' | 'types'>)[]
  models: (AuditedModel &
    MarkedCopy & {
      node: number
      uses: number
      /** Whether it stands in its node's frame, so that the library's can take its place. */
      standsInFrame: boolean
    })[]
  lights: (AuditedLight & { node: number })[]
  shares: { byArea: Partial<Record<AuditClass, number>>; byCount: Partial<Record<AuditClass, number>> }
  /** Meshes that do not read. */
  failures: string[]
}

/**
 * Says of everything in a scene what it is to the library.
 * @returns with what foreign materials look like, as texts to search by, by their numbers
 * @throws FileError where the scene does not read
 */
export const auditScene = (
  files: readonly SourceFile[],
  versions: readonly PrintedVersion[],
  onProgress: (share: number) => void = () => {},
): Promise<{ audit: SceneAudit; looks: Record<number, SceneLook> }> =>
  withScene(files, async scene => {
    const audit = judgeScene(await readScene(scene, onProgress), scene.form, versions)
    const foreign = audit.materials.filter(m => m.class === 'foreign').map(m => m.index)
    return { audit, looks: await readLooks(scene, foreign.slice(0, MOST_LOOKS)) }
  })

/** Codes of the items that a scene is stamped with; only its structure is read. */
export const listStamps = (files: readonly SourceFile[]): Promise<string[]> =>
  withScene(files, async ({ json: { nodes = [], materials = [], asset } }) => {
    const extras = [asset.extras as Record<string, unknown> | undefined, ...[...nodes, ...materials].map(thing => thing.extras)]
    return [...new Set(extras.flatMap(e => readStamp(e)?.code ?? []))]
  })

const MOST_LOOKS = 200

export function judgeScene(inventory: SceneInventory, form: SceneFile['form'], versions: readonly PrintedVersion[]): SceneAudit {
  const references = referencesOf(versions)
  const materialIndex = new MaterialIndex(references.materials)
  const modelIndex = new ModelIndex(references.models)
  const materials = inventory.materials.map(({ index, print, areaM2, lie, pattern, repeatM, places, types }) => {
    const audited = auditMaterial(print, materialIndex, form)
    const known = references.materials.find(r => r.code === audited.code && r.version === audited.version && r.ofModel === null)
    if (repeatM !== null && known?.repeatM && Math.abs(Math.log(repeatM / known.repeatM)) > Math.log(REPEAT_STEP))
      audited.remarks.push(`One repeat is ${sayMetres(repeatM)} wide here, ${sayMetres(known.repeatM)} in the library.`)
    const doubt = doubtName(print.name, lie, pattern)
    if (doubt !== null) audited.remarks.push(doubt)
    return { ...markCopy(audited, print.stamp), index, areaM2, places, types }
  })
  const owners = new Map(materials.flatMap(m => (m.ofModel !== null && m.code !== null ? [[m.index, m.code] as const] : [])))
  const models = listThings(inventory.roots, modelIndex, owners).map(({ node, print, instances }) => {
    const audited = auditModel(print, modelIndex)
    const known = references.models.find(r => r.code === audited.code && r.version === audited.version)
    return {
      ...markCopy(audited, print.stamp),
      node: node.id,
      uses: instances,
      standsInFrame: known !== undefined && standsInFrame(print, node.world, known.print),
    }
  })
  const lightIndex = new LightIndex(references.lights)
  const lights = inventory.lights.map(({ node, ...light }) => ({ ...auditLight(light, lightIndex), node }))
  const { triangles, failures } = inventory
  return { form, triangles, materials, models, lights, shares: sharesOf(materials, models, lights), failures }
}

function markCopy<T extends { code: string | null; remarks: string[] }>(thing: T, stamp: Stamp | null): T & MarkedCopy {
  const isCopy = stamp?.isCopy === true && stamp.code === thing.code
  return {
    ...thing,
    isCopy,
    remarks: isCopy ? [...thing.remarks, 'An editable copy: what is different about it is meant.'] : thing.remarks,
  }
}

/** By the surface that materials lie on, and by the number of materials, models and lights. */
export function sharesOf(
  materials: readonly Pick<SceneAudit['materials'][number], 'class' | 'areaM2'>[],
  models: readonly Pick<SceneAudit['models'][number], 'class'>[],
  lights: readonly Pick<SceneAudit['lights'][number], 'class'>[],
): SceneAudit['shares'] {
  const shareOf = (list: readonly { class: AuditClass; weight: number }[]) => {
    const all = list.reduce((sum, l) => sum + l.weight, 0)
    const shares: Partial<Record<AuditClass, number>> = {}
    if (all > 0) for (const l of list) shares[l.class] = (shares[l.class] ?? 0) + l.weight / all
    return shares
  }
  return {
    byArea: shareOf(materials.map(m => ({ class: m.class, weight: m.areaM2 }))),
    byCount: shareOf([...materials, ...models, ...lights].map(m => ({ class: m.class, weight: 1 }))),
  }
}
