import { type AuditedMaterial, auditMaterial, MaterialIndex } from '#core/audit/audit-material'
import { type AuditedModel, auditModel, ModelIndex } from '#core/audit/audit-model'
import type { AuditClass, AuditEvidence } from '#core/audit/reference'
import { standingOf } from '#core/audit/reference'
import { listThings } from '#core/audit/scene-tree'
import type { SourceFile } from '../reading/source-file'
import { type PrintedVersion, referencesOf } from './print-item'
import { readScene, type SceneInventory } from './read-scene'
import { openScene } from './scene-file'

export interface SceneAudit {
  form: string
  triangles: number
  materials: (AuditedMaterial & { index: number; areaM2: number; places: string[] })[]
  models: (AuditedModel & { node: number; uses: number })[]
  lights: { node: number; name: string; class: AuditClass; code: string | null; version: number | null; evidence: AuditEvidence[] }[]
  shares: { byArea: Partial<Record<AuditClass, number>>; byCount: Partial<Record<AuditClass, number>> }
  /** Meshes that do not read. */
  failures: string[]
}

/**
 * Says of everything in a scene what it is to the library.
 * @throws FileError where the scene does not read
 */
export async function auditScene(
  main: SourceFile,
  parts: readonly SourceFile[],
  versions: readonly PrintedVersion[],
  onProgress: (share: number) => void = () => {},
): Promise<SceneAudit> {
  const scene = await openScene(main, parts)
  try {
    const inventory = await readScene(scene, onProgress)
    return judgeScene(inventory, scene.form, versions)
  } finally {
    await scene.close()
  }
}

export function judgeScene(
  inventory: SceneInventory,
  form: Awaited<ReturnType<typeof openScene>>['form'],
  versions: readonly PrintedVersion[],
): SceneAudit {
  const references = referencesOf(versions)
  const materialIndex = new MaterialIndex(references.materials)
  const modelIndex = new ModelIndex(references.models)
  const materials = inventory.materials.map(({ index, print, areaM2, repeatM, places }) => {
    const audited = auditMaterial(print, materialIndex, form)
    const known = references.materials.find(r => r.code === audited.code && r.version === audited.version && r.ofModel === null)
    if (repeatM !== null && known?.repeatM && Math.abs(Math.log(repeatM / known.repeatM)) > Math.log(REPEAT_STEP))
      audited.remarks.push(`One repeat is ${metres(repeatM)} wide here, ${metres(known.repeatM)} in the library.`)
    return { ...audited, index, areaM2, places }
  })
  const models = listThings(inventory.roots, modelIndex).map(({ node, print, instances }) => ({
    ...auditModel(print, modelIndex),
    node: node.id,
    uses: instances,
  }))
  const lights = inventory.lights.map(({ node, name, stamp }): SceneAudit['lights'][number] => {
    const ofCode = versions.filter(v => v.code === stamp?.code)
    const found = ofCode.find(v => v.version === stamp?.version) ?? ofCode[0]
    if (!stamp || !found) return { node, name, class: 'foreign', code: null, version: null, evidence: [] }
    const text = `Stamped ${stamp.code}, version ${stamp.version}, when it was handed over`
    return { node, name, class: standingOf(found), code: found.code, version: found.version, evidence: [{ kind: 'stamp', text }] }
  })
  const { triangles, failures } = inventory
  return { form, triangles, materials, models, lights, shares: sharesOf(materials, models, lights), failures }
}

/** A repeat that is laid larger or smaller than this many times is told. */
const REPEAT_STEP = 1.03
const metres = (m: number): string => (m < 1 ? `${Math.round(m * 1000)} mm` : `${Math.round(m * 100) / 100} m`)

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
