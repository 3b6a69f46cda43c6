import { copyFile, mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { HOUSE_PROFILE } from '#core/hand-over/profile'
import type { MapRole } from '#core/material/texture-set'
import { encodeMap } from '#demo/make-file'
import { TEXTURE_RECIPES } from '#demo/materials'
import { makeMaps } from '#demo/texture-set'
import { type ExportItem, writeExport } from '#files/exports/write-export'
import type { ItemSource } from '#files/items/item-source'
import { sourceFileAt } from '#files/reading/source-file'
import { type Benchmark, bestSecondsOf, round } from './benchmark'

const MATERIALS = 24
const MAPS_PX = 2048

const ROLES: Record<string, MapRole> = {
  ...{ basecolor: 'baseColor', normal: 'normal', roughness: 'roughness' },
  ...{ metalness: 'metalness', height: 'height', ao: 'ambientOcclusion' },
}

async function makeSource(root: string): Promise<ItemSource> {
  const recipe = { ...TEXTURE_RECIPES[0], sizePx: MAPS_PX }
  const files: ItemSource['files'] = []
  for (const map of makeMaps(recipe)) {
    const path = `${recipe.stem}_${map.role}.png`
    await writeFile(join(root, path), await encodeMap(map))
    files.push({
      file: await sourceFileAt(join(root, path), path),
      role: ROLES[map.role],
      byContentOnly: false,
      handednessHint: null,
    })
  }
  return { kind: 'material', name: recipe.stem, widthMm: recipe.widthMm, constants: {}, files }
}

/** A hand-over in which nothing is converted, against copying the files that go out. */
export const exportBenchmark: Benchmark = {
  name: 'export-vs-copy',
  run: async () => {
    const root = await mkdtemp(join(tmpdir(), 'muscovite-bench-export-'))
    try {
      const source = await makeSource(root)
      const items = Array.from(
        { length: MATERIALS },
        (_, i): ExportItem => ({
          source,
          ...{ code: `TIM-${String(i + 1).padStart(4, '0')}`, version: 1, category: 'surfaces.timber', maker: '', licence: '' },
        }),
      )
      const bytes = MATERIALS * source.files.reduce((sum, f) => sum + f.file.size, 0)
      const seconds = await bestSecondsOf(2, () => writeExport(items, HOUSE_PROFILE, { project: null }, join(root, 'out.zip')))
      const copySeconds = await bestSecondsOf(2, async () => {
        for (const { code } of items) {
          await mkdir(join(root, code), { recursive: true })
          for (const { file } of source.files) await copyFile(file.diskPath, join(root, code, file.path.replaceAll('/', '_')))
        }
      })
      const rate = (s: number) => round(bytes / 1e6 / s)
      return [
        {
          name: 'export-vs-copy',
          ratio: round(copySeconds / seconds),
          ours: rate(seconds),
          baseline: rate(copySeconds),
          unit: 'MB/s',
          note: `${MATERIALS} materials with maps of ${MAPS_PX} px, ${Math.round(bytes / 1e6)} MB, hashed and packed with a manifest`,
        },
      ]
    } finally {
      await rm(root, { recursive: true, force: true })
    }
  },
}
