import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { auditScene, type SceneAudit } from '#files/audits/audit-scene'
import { type PrintedVersion, printItem } from '#files/audits/print-item'
import { sourceFileAt } from '#files/reading/source-file'
import { makeLibrary } from './make-library'
import { makeAuditScene, type PlantedScene } from './make-scene'
import { type AuditScore, scoreAudit } from './score-audit'

export interface MeasuredAudit extends AuditScore, Pick<PlantedScene, 'planted'> {
  audit: SceneAudit
  versions: (PrintedVersion & { source: Awaited<ReturnType<typeof makeLibrary>>['versions'][number]['source'] })[]
  scenePath: string
  seconds: number
}

/** Makes a library and a scene from a seed, audits the scene, and counts what was told rightly. */
export async function measureAudit(root: string, seed: number, counts: { materials: number; models: number }): Promise<MeasuredAudit> {
  const library = await makeLibrary(join(root, 'library'), seed, counts)
  const versions: MeasuredAudit['versions'] = []
  for (const { source, ...about } of library.versions) versions.push({ ...about, source, print: await printItem(source) })
  const { bytes, planted } = await makeAuditScene(library, seed)
  const scenePath = join(root, 'scene.glb')
  await writeFile(scenePath, bytes)
  const started = performance.now()
  const audit = await auditScene(await sourceFileAt(scenePath, 'scene.glb'), [], versions)
  const seconds = (performance.now() - started) / 1000
  return { ...scoreAudit(planted, audit), planted, audit, versions, scenePath, seconds }
}
