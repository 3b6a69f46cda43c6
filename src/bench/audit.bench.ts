import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeTruth, measureAudit } from '#demo/audit/measure-audit'
import { openScene } from '#files/audits/scene-file'
import { decodeByteImage, MAX_SIDE } from '#files/reading/decode-image'
import { sourceFileAt } from '#files/reading/source-file'
import { type Benchmark, bestSecondsOf, round } from './benchmark'

const MATERIALS = 120
const MODELS = 40

/** An audit of a scene against a library, against reading the scene alone: its structure, and every picture decoded. */
export const auditBenchmark: Benchmark = {
  name: 'audit-scene',
  run: async () => {
    const root = await mkdtemp(join(tmpdir(), 'muscovite-bench-audit-'))
    try {
      const { scenePath, seconds, audit, versions } = await measureAudit(
        await makeTruth(root, 11, { materials: MATERIALS, models: MODELS }),
      )
      const readSeconds = await bestSecondsOf(2, () => readAlone(scenePath))
      const perHundred = (s: number) => round((s / audit.materials.length) * 100)
      return [
        {
          name: 'audit-scene',
          ratio: round(readSeconds / seconds),
          ours: perHundred(seconds),
          baseline: perHundred(readSeconds),
          unit: 's per 100 materials',
          note: `${audit.materials.length} materials with maps of 512 px and ${audit.models.length} models against ${versions.length} printed versions`,
        },
      ]
    } finally {
      await rm(root, { recursive: true, force: true })
    }
  },
}

async function readAlone(path: string): Promise<void> {
  const scene = await openScene(await sourceFileAt(path, 'scene.glb'), [])
  for (let image = 0; image < (scene.json.images?.length ?? 0); image++) {
    const bytes = await scene.readImage(image)
    if (bytes) await decodeByteImage(bytes, MAX_SIDE)
  }
  await scene.close()
}
