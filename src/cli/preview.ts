import { z } from 'zod'
import { toFailure } from '#core/findings/failure'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { type Rig, STAGE_KIND } from '#core/render/rigs/rig'
import { findCategory } from '#core/standard/categories'
import type { HouseRigName } from '#core/standard/rig-names'
import { previewItem } from '#files/items/preview-item'
import { collectSources } from '#files/reading/collect-sources'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import { encodePicture } from '#files/writing/encode-picture'

const optionsSchema = z.object({
  out: z.string(),
  rig: z.enum(Object.keys(HOUSE_RIGS) as [HouseRigName, ...HouseRigName[]]).optional(),
  quality: z.enum(['draft', 'final']).default('draft'),
  width: z.coerce.number().int().min(32).max(4096).optional(),
  seed: z.coerce
    .number()
    .int()
    .min(0)
    .max(2 ** 31)
    .default(1),
  stats: z.string().optional(),
})

interface Effects {
  write: (path: string, data: Uint8Array | string) => Promise<void>
  report: (text: string) => void
}

/** Renders the first item at a path to a PNG. */
export async function runPreview(
  path: string,
  given: Record<string, unknown> & { out: string },
  effects: Effects,
): Promise<number> {
  const parsed = optionsSchema.safeParse(given)
  if (!parsed.success) {
    for (const issue of parsed.error.issues) effects.report(`muscovite: --${issue.path.join('.')}: ${issue.message}\n`)
    return 2
  }
  const options = parsed.data
  const sources = await collectSources([path])
  try {
    const { items, failures } = await recognizeDelivery(sources.files)
    const item = items[0]
    for (const failure of [...sources.failures, ...failures]) effects.report(`muscovite: ${failure.path}: ${failure.message}\n`)
    if (!item) {
      effects.report('muscovite: there is nothing here to preview.\n')
      return 1
    }
    const rig: Rig = HOUSE_RIGS[options.rig ?? findCategory(item.category)?.rig ?? 'material-stage']
    if (STAGE_KIND[rig.stage] !== item.kind) {
      effects.report(`muscovite: the rig ${rig.name} does not take a ${item.kind}.\n`)
      return 2
    }
    const result = await previewItem(item, rig, options.quality, { seed: options.seed, width: options.width })
    if (!result) return 1
    await effects.write(options.out, await encodePicture(result.picture, 'png'))
    if (options.stats)
      await effects.write(options.stats, `${JSON.stringify({ item: item.name, kind: item.kind, ...result.stats }, null, 2)}\n`)
    effects.report(`${item.name}: ${result.stats.samples} samples in ${result.stats.seconds.toFixed(1)} s\n`)
    return 0
  } catch (error) {
    effects.report(`muscovite: ${path}: ${toFailure(error).message}\n`)
    return 1
  } finally {
    await sources.dispose()
  }
}
