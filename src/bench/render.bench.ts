import { fork } from 'node:child_process'
import { mkdtemp, rm } from 'node:fs/promises'
import { cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import sharp from 'sharp'
import { mergeMeshes } from '#core/geometry/mesh'
import type { ByteImage } from '#core/image/image'
import { buildMaterialFromMaps } from '#core/material/build-material'
import { createMaterial, type OpenPbrMaterial } from '#core/material/open-pbr'
import { frameSubject } from '#core/render/film/camera'
import { createTracer, PlainTracer, type Tracer } from '#core/render/integrator/kernel-tracer'
import { PathTracer } from '#core/render/integrator/path-tracer'
import { render } from '#core/render/integrator/render'
import { createExposedLight, createHouseLightMap } from '#core/render/lights/house-light'
import { renderPreview } from '#core/render/pictures/preview'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { PREVIEW_ASPECT, type Rig } from '#core/render/rigs/rig'
import { createRayHit, type RayCaster } from '#core/render/scene/ray-caster'
import { createScene } from '#core/render/scene/scene'
import { directionToCamera, type StageableSubject, stageSubject } from '#core/render/stages/stage-subject'
import { createMaterialStage } from '#core/render/stages/stages'
import { createBackdrop } from '#core/render/stages/surroundings'
import { TEXTURE_RECIPES } from '#demo/materials'
import { makeMaps } from '#demo/texture-set'
import { type Benchmark, bestSecondsOf, round, secondsOf } from './benchmark'
import { loadPiece } from './finals.bench'

const SAMPLES = 8

function makeOak(): { material: OpenPbrMaterial; images: ByteImage[] } {
  const maps = makeMaps({ ...TEXTURE_RECIPES[0], sizePx: 512 })
  const of = (role: string) => maps.find(m => m.role === role) as ByteImage
  const material = buildMaterialFromMaps(
    'oak',
    [
      { role: 'baseColor', image: 0 },
      { role: 'normal', image: 1 },
      { role: 'roughness', image: 2 },
    ],
    [1.2, 1.2],
  )
  return { material, images: [of('basecolor'), of('normal'), of('roughness')] }
}

/** Renders a 256 px material preview without filtering; samples and seconds. */
export function renderOak(samples = SAMPLES) {
  const { material, images } = makeOak()
  return () =>
    renderPreview(
      { kind: 'material', material, images },
      {
        rig: HOUSE_RIGS['material-stage'],
        quality: { width: 256, noiseTarget: 0, maxSamples: samples, denoised: false },
        seed: 1,
      },
    )!
}

/** A megasample of the plainest thing there is, a grey surface without maps, stands for the cost of the path tracing itself. */
export const previewBenchmark: Benchmark = {
  name: 'preview-megasample',
  run: async () => {
    const draw = renderOak()
    const result = draw()
    const ours = await bestSecondsOf(2, draw)
    const plain = createMaterial('plain', { baseColor: [0.5, 0.5, 0.5] })
    const drawPlain = () =>
      renderPreview(
        { kind: 'material', material: plain, images: [] },
        {
          rig: HOUSE_RIGS['material-stage'],
          quality: { width: 256, noiseTarget: 0, maxSamples: SAMPLES, denoised: false },
          seed: 1,
        },
      )
    const baseline = await bestSecondsOf(2, drawPlain)
    const perMegasample = (seconds: number) => round(seconds / (result.samples / 1e6))
    return [
      {
        name: 'preview-megasample',
        ratio: round(baseline / ours),
        ours: perMegasample(ours),
        baseline: perMegasample(baseline),
        unit: 's per megasample',
        note: `256 px oak with three maps against the same stage plain grey; ${round(result.rays / result.samples)} rays a sample, ${round(result.rays / ours / 1e6)} Mrays/s`,
      },
    ]
  },
}

/** A caster that notes every ray, so that the traversal can be run again on its own. */
class RayRecorder implements RayCaster {
  readonly rays: number[] = []
  constructor(private readonly inner: RayCaster) {}
  get hasTinted(): boolean {
    return this.inner.hasTinted
  }
  closestHit(...ray: Parameters<RayCaster['closestHit']>): boolean {
    this.rays.push(0, ...ray.slice(0, 7).map(Number))
    return this.inner.closestHit(...ray)
  }
  isOccluded(...ray: Parameters<RayCaster['isOccluded']>): boolean {
    this.rays.push(1, ...ray)
    return this.inner.isOccluded(...ray)
  }
}

/** Where a preview's time goes: its rays traced again alone, its textures taken away, and the rest, which is shading and sampling. */
export const sharesBenchmark: Benchmark = {
  name: 'preview-shares',
  run: async () => {
    const stage = (material: OpenPbrMaterial, images: ByteImage[]) => {
      const scene = createScene([{ mesh: createMaterialStage(), material, images }])
      const light = createExposedLight(createHouseLightMap(), 0)
      const camera = frameSubject(scene.positions, directionToCamera(HOUSE_RIGS['material-stage']), 70, 4 / 3, 0.94)
      return { scene, light, camera }
    }
    const settings = { width: 192, height: 144, seed: 1, noiseTarget: 0, maxSamples: SAMPLES, background: null, denoised: false }
    const { material, images } = makeOak()
    const oak = stage(material, images)
    const plain = stage(createMaterial('plain', { baseColor: [0.5, 0.5, 0.5], specularRoughness: 0.5 }), [])
    const whole = await bestSecondsOf(3, () => render(oak.scene, oak.light, oak.camera, settings))
    const untextured = await bestSecondsOf(3, () => render(plain.scene, plain.light, plain.camera, settings))
    const caster = oak.scene.caster
    const recorder = new RayRecorder(caster)
    render({ ...oak.scene, caster: recorder }, oak.light, oak.camera, settings)
    const rays = Float64Array.from(recorder.rays)
    const hit = createRayHit()
    const traversal = await bestSecondsOf(3, () => {
      for (let r = 0; r < rays.length; r += 8)
        if (rays[r] === 0)
          caster.closestHit(rays[r + 1], rays[r + 2], rays[r + 3], rays[r + 4], rays[r + 5], rays[r + 6], rays[r + 7], hit)
        else caster.isOccluded(rays[r + 1], rays[r + 2], rays[r + 3], rays[r + 4], rays[r + 5], rays[r + 6], rays[r + 7])
    })
    const textures = Math.max(0, whole - untextured)
    const share = (seconds: number) => `${Math.round((100 * seconds) / whole)} %`
    return [
      {
        name: 'preview-shares',
        ratio: round(whole / traversal),
        ours: round(traversal),
        baseline: round(whole),
        unit: 's',
        note: `traversal ${share(traversal)}, textures ${share(textures)}, shading and sampling ${share(whole - traversal - textures)} of a preview; ${rays.length / 8} rays`,
      },
    ]
  },
}

const MEMORY_LIMIT_MB = 700

/** Largest resident size of a process that renders a draft of a material with three 4096 px maps. */
export const memoryBenchmark: Benchmark = {
  name: 'preview-memory-4k',
  run: async () => {
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-4k-'))
    try {
      for (const [role, mean] of [
        ['basecolor', 120],
        ['normal', 128],
        ['roughness', 150],
      ] as const)
        await sharp({
          create: { width: 4096, height: 4096, channels: 3, background: '#888', noise: { type: 'gaussian', mean, sigma: 20 } },
        })
          .png({ compressionLevel: 1 })
          .toFile(join(folder, `Slab_${role}_4k.png`))
      const used = await new Promise<number>((resolve, reject) => {
        const child = fork(fileURLToPath(new URL('./memory.child.js', import.meta.url)), [folder])
        child.once('message', mb => resolve(Number(mb)))
        child.once('exit', status => reject(new Error(`the rendering ended with ${status}`)))
      })
      return [
        {
          name: 'preview-memory-4k',
          ratio: round(MEMORY_LIMIT_MB / used),
          ours: round(used),
          baseline: MEMORY_LIMIT_MB,
          unit: 'MB',
          note: 'largest resident size while a material with three 4096 px maps is rendered, against what it may take',
        },
      ]
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  },
}

const BATCH = 100

/** Threads that are warm, while they are used. */
async function withThreads<T>(
  count: number,
  use: (draw: (shares: readonly number[]) => Promise<unknown>) => Promise<T>,
): Promise<T> {
  const workers = Array.from({ length: count }, () => new Worker(new URL('./oak.worker.js', import.meta.url)))
  const heard = (worker: Worker) =>
    new Promise((resolve, reject) => {
      worker.once('message', resolve)
      worker.once('error', reject)
    })
  try {
    await Promise.all(workers.map(heard))
    return await use(shares =>
      Promise.all(
        shares.map((drafts, k) => {
          workers[k].postMessage(drafts)
          return heard(workers[k])
        }),
      ),
    )
  } finally {
    await Promise.all(workers.map(w => w.terminate()))
  }
}

/** A hundred drafts on all cores against what one thread would take for them. */
export const batchBenchmark: Benchmark = {
  name: 'preview-batch',
  run: async () => {
    const threads = cpus().length
    const few = 6
    const shares = Array.from({ length: threads }, (_, k) => Math.floor(BATCH / threads) + (k < BATCH % threads ? 1 : 0))
    const [one, all] = await withThreads(threads, async draw => [
      await secondsOf(() => draw([few])),
      await secondsOf(() => draw(shares)),
    ])
    return [
      {
        name: 'preview-batch',
        ratio: round((one * BATCH) / few / all),
        ours: round((BATCH / all) * 60),
        baseline: round((few / one) * 60),
        unit: 'drafts per minute',
        note: `${BATCH} drafts of 256 px on ${threads} threads in ${round(all)} s, against one thread`,
      },
    ]
  },
}

const DRAFTS_EACH = 4

export const threadsBenchmark: Benchmark = {
  name: 'threads-2-vs-1',
  run: async () => {
    const [one, two] = await withThreads(2, async draw => [
      await secondsOf(() => draw([DRAFTS_EACH])),
      await secondsOf(() => draw([DRAFTS_EACH, DRAFTS_EACH])),
    ])
    return [
      {
        name: 'threads-2-vs-1',
        ratio: round((2 * one) / two),
        ours: round(two),
        baseline: round(one),
        unit: 's',
        note: `${2 * DRAFTS_EACH} drafts on two warm threads against ${DRAFTS_EACH} on one; ${cpus().length} cores`,
      },
    ]
  },
}

/** What the two tracers are timed on: three maps; a coat and fuzz; glass with water in it; a plant with holes in its leaves. */
async function listPathCases(): Promise<[string, Rig, StageableSubject][]> {
  const oak = makeOak()
  const plant = await loadPiece('Cornus_alba')
  const ofMaterial = (name: string, rig: keyof typeof HOUSE_RIGS, material: OpenPbrMaterial, images: ByteImage[]) =>
    [name, HOUSE_RIGS[rig], { kind: 'material', material, images }] as [string, Rig, StageableSubject]
  return [
    ofMaterial('three maps', 'material-stage', oak.material, oak.images),
    ofMaterial(
      'coat and fuzz',
      'cloth-drape',
      createMaterial('cloth', { baseColor: [0.3, 0.1, 0.1], fuzzWeight: 0.6, coatWeight: 0.5 }),
      [],
    ),
    ofMaterial('glass', 'glass-vessel', createMaterial('glass', { transmissionWeight: 1, transmissionDepth: 0.05 }), []),
    ['a plant', plant.rig, plant.subject as StageableSubject],
  ]
}

const PATH_WIDTH = 96
const PATH_ROUNDS = 24

/** The same samples, ray for ray, by the tracer in WebAssembly and by the plain one, in turns. */
export const pathBenchmark: Benchmark = {
  name: 'path-vs-typescript',
  run: async () =>
    (await listPathCases()).map(([name, rig, item]) => {
      const { subject, extras, camera, lamps, backdrop } = stageSubject(item, rig)
      const around = mergeMeshes([...subject, ...extras].map(o => o.mesh))
      const scene = createScene([...subject, ...extras, createBackdrop(around, camera, 0.5, backdrop)], new Map(), lamps)
      const light = createExposedLight(createHouseLightMap(), 0)
      const [width, height] = [PATH_WIDTH, PATH_WIDTH / PREVIEW_ASPECT]
      const kernel = createTracer(scene, light, camera, { background: null, width, height, seed: 1 })
      const plain = new PlainTracer(new PathTracer(scene, light, camera, null, width, height, 1))
      const draw = (tracer: Tracer) => () => {
        for (let p = 0; p < width * height; p++) tracer.tracePixel(p % width, Math.floor(p / width), 0, SAMPLES / 2)
      }
      let [ours, baseline] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY]
      // In turns, so that what else the machine does meets both.
      for (let round = 0; round < PATH_ROUNDS; round++) {
        ours = Math.min(ours, secondsSync(draw(kernel)))
        baseline = Math.min(baseline, secondsSync(draw(plain)))
      }
      const samples = (width * height * SAMPLES) / 2
      return {
        name: 'path-vs-typescript',
        ratio: round(baseline / ours),
        ours: round((ours / samples) * 1e6),
        baseline: round((baseline / samples) * 1e6),
        unit: 's per megasample',
        note: `${name}; ${round(kernel.rays / (PATH_ROUNDS * samples))} rays a sample, as many as the plain tracer's ${round(plain.rays / (PATH_ROUNDS * samples))}`,
      }
    }),
}

function secondsSync(run: () => void): number {
  const start = performance.now()
  run()
  return (performance.now() - start) / 1000
}
