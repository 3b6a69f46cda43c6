import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { percentile } from '#core/math/statistics'
import { displayLuminance, planTiles, type Tile, tileMeans } from '#core/render/film/tile'
import { finishRendering } from '#core/render/integrator/render'
import { type PreviewRequest, type PreviewSubject, preparePreview } from '#core/render/pictures/preview'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { type QualityName, qualityOf } from '#core/render/rigs/rig'
import { findCategory } from '#core/standard/categories'
import { DEMO_PIECES, makePiece } from '#demo/make-file'
import { loadItem, toPreviewSubject } from '#files/items/load-item'
import { collectSources } from '#files/reading/collect-sources'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import { type Benchmark, round } from './benchmark'

/** A timber, brushed metal, glass, cloth, a chair, a tree and a sky of the demo world. */
const CASES = [
  'Oak_Plank_Natural',
  'Brushed_Steel_Fine',
  'Glass_Clear_Low_Iron',
  'Linen_Weave_Flax',
  'Slat_Back_Chair',
  'Cornus_alba',
  'Broken_Cloud_Afternoon',
]
const GIVEN_SECONDS = { draft: 2.5, final: 40 } as const satisfies Record<QualityName, number>
/** Tiles that are traced far longer, spread over the picture, for the truth. */
const CHECKED_TILES = 16
const REFERENCE_SAMPLES = 256

/** A piece of the demo world, as it is previewed. */
export async function loadPiece(stem: string) {
  const piece = DEMO_PIECES.find(p => p.stem === stem)
  if (!piece) throw new Error(`There is no ${stem} in the demo world; there are ${DEMO_PIECES.map(p => p.stem).join(', ')}`)
  const folder = await mkdtemp(join(tmpdir(), 'muscovite-final-'))
  try {
    await makePiece(piece, folder)
    const sources = await collectSources([folder])
    const { items } = await recognizeDelivery(sources.files)
    const { loaded } = await loadItem(items[0], 'preview', 2048)
    if (loaded.kind === 'map') throw new Error(`${stem} is a map: nothing of it is rendered`)
    const rig = HOUSE_RIGS[findCategory(items[0].category)?.rig ?? 'material-stage']
    const subject = await toPreviewSubject(loaded, 1024)
    await sources.dispose()
    return { subject, rig }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** 95th percentile of the error of tiles against two references of the same, which have nothing to do with each other. */
function measureTruth(picture: Tile[], references: Tile[][]): number {
  const seen = (data: Float32Array, i: number) => displayLuminance(data[i], data[i + 1], data[i + 2])
  const errors = picture.map((tile, t) => {
    const own = tile.filtered ?? tileMeans(tile)
    const [a, b] = references.map(r => tileMeans(r[t]))
    let sum = 0
    for (let i = 0; i < own.length; i += 3)
      sum += (seen(own, i) - (seen(a, i) + seen(b, i)) / 2) ** 2 - ((seen(a, i) - seen(b, i)) / 2) ** 2
    return Math.sqrt(Math.max(0, sum / (own.length / 3)))
  })
  return percentile(errors, 0.95)
}

function render(subject: PreviewSubject, request: PreviewRequest) {
  const started = performance.now()
  const prepared = preparePreview(subject, request)
  const rendering = prepared.start()
  while (rendering.step());
  const result = finishRendering(rendering.tiles, prepared.settings, rendering.rays, rendering.clamped)
  const seconds = (performance.now() - started) / 1000
  const every = Math.max(1, Math.floor(rendering.tiles.length / CHECKED_TILES))
  const checked = (tiles: Tile[]) => tiles.filter((_, k) => k % every === every >> 1)
  const shown = checked(rendering.tiles)
  const references = [101, 102].map(seed => {
    const quality = { ...request.quality, denoised: false, noiseTarget: 0, maxSamples: REFERENCE_SAMPLES }
    const longer = preparePreview(subject, { ...request, seed, quality, backdropAlbedo: prepared.backdrop?.albedo })
    const tracing = longer.start(undefined, checked(planTiles(longer.settings)))
    while (tracing.step());
    return tracing.tiles
  })
  return { result, seconds, truth: measureTruth(shown, references) }
}

const benchmarkOf = (quality: QualityName): Benchmark => ({
  name: `${quality}-seconds`,
  run: async function* () {
    for (const stem of CASES) {
      const { subject, rig } = await loadPiece(stem)
      const { result, seconds, truth } = render(subject, { rig, quality: qualityOf(rig, quality), seed: 1 })
      const { width, height } = result.image
      yield {
        name: `${quality}-seconds`,
        ratio: round(GIVEN_SECONDS[quality] / (seconds / 2)),
        ours: round(seconds / 2),
        baseline: GIVEN_SECONDS[quality],
        unit: 's',
        note: `${stem.replaceAll('_', ' ')}, ${width} x ${height}, a picture's time with two at once, each on its thread (alone ${round(seconds)} s); ${round(result.samples / width / height)} samples a pixel; error of 255 estimated ${round(result.achievedError * 255)}, true ${round(truth * 255)}`,
      }
    }
  },
})

export const finalBenchmark = benchmarkOf('final')
export const draftBenchmark = benchmarkOf('draft')
