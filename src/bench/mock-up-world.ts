import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import { type Mesh, mergeMeshes, placeMesh } from '#core/geometry/mesh'
import { createSheet, createSphere } from '#core/geometry/shapes'
import { createFloatImage } from '#core/image/image'
import { turnAbout } from '#core/math/quaternion'
import { createRandom } from '#core/math/random'
import { EMPTY_SCENE, type ItemRef, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import type { ItemSource } from '#files/items/item-source'
import { encodeExr } from '#files/writing/encode-exr'
import { writeGlb } from '../demo/model-file'

/** A mock-up as large as one gets: 300 pieces of 20 models, 40 materials with maps of 2048 pixels, 5,000 plants of 90,000 triangles. */
export const WORLD = { pieces: 300, models: 20, materials: 40, plants: 5000, plantTriangles: 90_000, mapPx: 2048 }

export interface WorldItem {
  kind: 'model' | 'material' | 'environment'
  name: string
  code: string
  files: { role: string; path: string; mediaType: string }[]
}

const finish = (name: string, color: [number, number, number]) => ({ name, color, roughness: 0.5 })
const glb = (stem: string, parts: { name: string; mesh: Mesh }[]): Promise<Uint8Array> =>
  writeGlb({ folder: '', stem, parts: parts.map(p => ({ ...p, finish: finish(`${stem} ${p.name}`, [0.4, 0.4, 0.35]) })) })

function plantMesh(triangles: number): Mesh {
  const random = createRandom(5)
  const leaf = createSheet(
    1,
    1,
    (s, t) => [(s - 0.5) * 0.05, t * 0.09, 0],
    (s, t) => [s, t],
  )
  return mergeMeshes(
    Array.from({ length: triangles / 2 }, () => {
      const [a, r, y] = [random.next() * 6.283, 0.45 * Math.sqrt(random.next()), random.next()]
      return placeMesh(leaf, [r * Math.cos(a), y, r * Math.sin(a)], random.next() * 6.283)
    }),
  )
}

/** Writes the files of the world's items into a folder. */
export async function writeWorld(folder: string): Promise<WorldItem[]> {
  await mkdir(folder, { recursive: true })
  const made: WorldItem[] = []
  const put = async (name: string, bytes: Uint8Array): Promise<string> => {
    const path = join(folder, name)
    await writeFile(path, bytes)
    return path
  }
  for (let k = 0; k < WORLD.models; k++) {
    const radius = 0.2 + 0.01 * k
    const bytes = await glb(`thing${k}`, [
      { name: 'body', mesh: createSphere(radius, [0, radius, 0], 60) },
      { name: 'foot', mesh: createSphere(radius / 3, [0, radius / 3, radius], 30) },
    ])
    const path = await put(`thing${k}.glb`, bytes)
    made.push({
      kind: 'model',
      name: `Thing ${k}`,
      code: `OBJ-${1000 + k}`,
      files: [{ role: 'model', path, mediaType: 'model/gltf-binary' }],
    })
  }
  const plant = await put('plant.glb', await glb('plant', [{ name: 'foliage', mesh: plantMesh(WORLD.plantTriangles) }]))
  made.push({
    kind: 'model',
    name: 'Plant',
    code: 'SHR-1000',
    files: [{ role: 'model', path: plant, mediaType: 'model/gltf-binary' }],
  })
  for (let k = 0; k < WORLD.materials; k++) {
    const files = []
    for (const [role, mean] of [
      ['baseColor', 60 + k * 4],
      ['roughness', 150],
    ] as const) {
      const noise = await sharp({
        create: { width: 256, height: 256, channels: 3, background: '#888', noise: { type: 'gaussian', mean, sigma: 20 } },
      })
        .png()
        .toBuffer()
      const bytes = await sharp(noise).resize(WORLD.mapPx, WORLD.mapPx).jpeg({ quality: 80 }).toBuffer()
      files.push({ role, path: await put(`material${k}_${role}.jpg`, bytes), mediaType: 'image/jpeg' })
    }
    made.push({ kind: 'material', name: `Material ${k}`, code: `PLA-${1000 + k}`, files })
  }
  const sky = createFloatImage(1024, 512, 3)
  sky.data.fill(0.8)
  sky.data.fill(900, (120 * 1024 + 300) * 3, (120 * 1024 + 304) * 3)
  const path = await put('sky.exr', encodeExr(sky))
  made.push({
    kind: 'environment',
    name: 'Sky',
    code: 'SKY-1000',
    files: [{ role: 'environment', path, mediaType: 'image/x-exr' }],
  })
  return made
}

/** The items as the core opens them. */
export const toSource = ({ kind, name, files }: WorldItem): ItemSource => ({
  kind,
  name,
  widthMm: kind === 'material' ? 800 : null,
  constants: {},
  files: files.map(({ role, path }) => ({
    role,
    file: { path, diskPath: path } as ItemSource['files'][number]['file'],
    byContentOnly: false,
    handednessHint: null,
  })),
})

/** The scene of them. */
export function stageWorld(refOf: (code: string) => ItemRef): Scene {
  const pieces = Object.fromEntries(
    Array.from({ length: WORLD.pieces }, (_, k) => {
      const material = refOf(`PLA-${1000 + (k % WORLD.materials)}`)
      return [
        `p${k}`,
        {
          item: refOf(`OBJ-${1000 + (k % WORLD.models)}`),
          name: `Thing ${k}`,
          position: [(k % 20) * 1.1 - 11, 0, Math.floor(k / 20) * 1.1 - 8],
          turn: turnAbout([0, 1, 0], k * 13),
          materials: { body: { material } },
        },
      ]
    }),
  )
  const side = 50
  return sceneSchema.parse({
    ...EMPTY_SCENE,
    pieces,
    plantings: {
      field: {
        name: 'Field',
        outline: [
          [-side / 2, -12],
          [side / 2, -12],
          [side / 2, -12 - side],
          [-side / 2, -12 - side],
        ],
        species: [{ item: refOf('SHR-1000'), name: 'Plant', share: 1, smallest: 0.7, largest: 1.4 }],
        perM2: WORLD.plants / side ** 2,
        seed: 3,
      },
    },
    skies: { sky: { item: refOf('SKY-1000'), name: 'Sky' } },
    shots: { all: { name: 'All', place: 1, position: [0, 3.5, 13], target: [0, 0.5, -6], focalMm: 28, aspect: 1.6, sky: 'sky' } },
  })
}
