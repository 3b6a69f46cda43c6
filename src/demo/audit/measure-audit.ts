import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { auditScene, type SceneAudit } from '#files/audits/audit-scene'
import { type Correction, correctScene } from '#files/audits/correct-scene'
import { type PrintedVersion, printItem } from '#files/audits/print-item'
import { createCorrectionOpener } from '#files/audits/put-back'
import { readScenePart, type ScenePart } from '#files/audits/read-scene-parts'
import { openScene } from '#files/audits/scene-file'
import { type SceneFileForm, writeGlbFiles } from '#files/audits/write-scene-form'
import { type SourceFile, sourceFileAt } from '#files/reading/source-file'
import { type AuditCounts, makeLibrary } from './make-library'
import { makeAuditScene, type PlantedScene } from './make-scene'
import { type AuditScore, scoreAudit } from './score-audit'

/** A scene as it was made, or written in another form, which holds less. */
export type SceneForm = 'glb' | SceneFileForm

/** How far a correction of all that could be corrected went. */
export interface MeasuredCorrection {
  done: number
  refused: number
  /** Things that were corrected, and are still not as pinned. */
  stillWrong: string[]
  /** Whether every mesh of the scene has the same bytes as before. */
  geometryUnchanged: boolean
  outPath: string
}

export interface MeasuredAudit extends AuditScore, Pick<PlantedScene, 'planted'> {
  audit: SceneAudit
  versions: (PrintedVersion & { source: Awaited<ReturnType<typeof makeLibrary>>['versions'][number]['source'] })[]
  scenePath: string
  seconds: number
}

/** A library, printed, and a scene of its things. */
export interface AuditTruth extends PlantedScene {
  /** Where it lies. */
  root: string
  versions: MeasuredAudit['versions']
}

/** Makes a library and a scene from a seed. */
export async function makeTruth(root: string, seed: number, counts: AuditCounts): Promise<AuditTruth> {
  const library = await makeLibrary(join(root, 'library'), seed, counts)
  const versions: MeasuredAudit['versions'] = []
  for (const { source, ...about } of library.versions) versions.push({ ...about, source, print: await printItem(source) })
  return { root, versions, ...(await makeAuditScene(library, seed)) }
}

/** Audits the scene in a form, and counts what was told rightly. */
export async function measureAudit(
  { root, versions, bytes, planted: all }: AuditTruth,
  form: SceneForm = 'glb',
): Promise<MeasuredAudit> {
  // OBJ knows no lights.
  const planted = all.filter(p => p.kind !== 'light' || form !== 'obj')
  const files = form === 'glb' ? [{ path: 'scene.glb', bytes }] : await writeGlbFiles(bytes, form, 'scene')
  const sources: SourceFile[] = []
  for (const file of files) {
    const path = join(root, file.path)
    await mkdir(dirname(path), { recursive: true })
    await writeFile(path, file.bytes)
    sources.push(await sourceFileAt(path, file.path))
  }
  const scenePath = join(root, files[0].path)
  const started = performance.now()
  const { audit } = await auditScene(sources, versions)
  const seconds = (performance.now() - started) / 1000
  return { ...scoreAudit(planted, audit), planted, audit, versions, scenePath, seconds }
}

/** Puts back whatever has a pinned version, audits again, and looks whether anything else was touched. */
export async function measureCorrection({ audit, versions, scenePath }: MeasuredAudit): Promise<MeasuredCorrection> {
  const wanted = [
    ...audit.materials.map(thing => ({ thing, kind: 'material' as const, index: thing.index, materialName: thing.ofModel })),
    ...audit.models.map(thing => ({ thing, kind: 'model' as const, index: thing.node, standsInFrame: thing.standsInFrame })),
    ...audit.lights.map(thing => ({ thing, kind: 'light' as const, index: thing.node, share: thing.share })),
  ].filter(({ thing }) => thing.code !== null && thing.class !== 'pinned')
  const open = createCorrectionOpener()
  const corrections: Correction[] = []
  for (const { thing, ...which } of wanted) {
    const version = versions.find(v => v.code === thing.code && v.version === v.pinned)
    if (!version) continue
    const { code, version: number, source } = version
    corrections.push(await open({ ...which, stamp: { code, version: number }, source }))
  }
  const outPath = `${scenePath}.corrected.glb`
  const scene = await openScene(await sourceFileAt(scenePath, 'scene.glb'), [])
  const { done, refused } = await correctScene(scene, corrections, outPath)
  const corrected = await openScene(await sourceFileAt(outPath, 'scene.glb'), [])
  let geometryUnchanged = true
  for (const [m, mesh] of (scene.json.meshes ?? []).entries())
    for (const [p, primitive] of mesh.primitives.entries()) {
      const [before, after] = [
        await readScenePart(scene, primitive),
        await readScenePart(corrected, corrected.json.meshes![m].primitives[p]),
      ]
      if (!before || !after || Buffer.compare(bytesOf(before), bytesOf(after)) !== 0) geometryUnchanged = false
    }
  await scene.close()
  await corrected.close()
  const { audit: again } = await auditScene([await sourceFileAt(outPath, 'scene.glb')], versions)
  const isDone = (kind: Correction['kind'], index: number) =>
    corrections.some(c => c.kind === kind && c.index === index) && !refused.some(r => r.kind === kind && r.index === index)
  // Of an item that is withdrawn the pinned version stands in the project all the same.
  const isWrong = (thing: { class: string }) => thing.class !== 'pinned' && thing.class !== 'withdrawn'
  const stillWrong = [
    ...again.materials.filter(m => isDone('material', m.index) && isWrong(m)),
    ...again.models.filter(m => isDone('model', m.node) && isWrong(m)),
    ...again.lights.filter(l => isDone('light', l.node) && isWrong(l)),
  ].map(m => `${m.name}: ${m.class} ${m.changes.map(c => `${c.what} ${c.from}→${c.to}`).join('; ')}`)
  return { done, refused: refused.length, stillWrong, geometryUnchanged, outPath }
}

const bytesOf = ({ mesh: { positions } }: ScenePart): Buffer =>
  Buffer.from(positions.buffer, positions.byteOffset, positions.byteLength)
