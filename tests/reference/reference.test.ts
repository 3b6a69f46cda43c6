import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { computeFlip } from '../../src/core/compare/flip'
import { mergeMeshes, placeMesh } from '../../src/core/geometry/mesh'
import { createBox, createSheet, createSphere } from '../../src/core/geometry/shapes'
import type { ByteImage } from '../../src/core/image/image'
import { createMaterial, type OpenPbrParameters } from '../../src/core/material/open-pbr'
import { mean } from '../../src/core/math/statistics'
import { readIes } from '../../src/core/photometry/read-ies'
import { developForDisplay } from '../../src/core/render/film/develop'
import { type PreviewSubject, renderPreview } from '../../src/core/render/pictures/preview'
import { HOUSE_RIGS } from '../../src/core/render/rigs/house-rigs'
import type { HouseRigName } from '../../src/core/standard/rig-names'
import { makeSunSky } from '../fixtures'
import { type Curve, writeIes } from '../formats/photometry'

/**
 * Small renderings of every rig and every layer of the material model, kept beside this file and compared by FLIP: what changes the
 * look of previews is noticed, what changes a last bit is not. `UPDATE_REFERENCES=1 npm test -- tests/reference` writes them anew; look at
 * them before they are committed, and raise RENDERER_REVISION.
 */

const FOLDER = import.meta.dirname
const QUALITY = { width: 96, noiseTarget: 0, maxSamples: 12, denoised: false }
/** A renderer that is the same differs by rounding alone; a wrong highlight or a missing shadow by far more. */
const LIMIT = 0.01

const material = (name: string, parameters: Partial<OpenPbrParameters>): PreviewSubject => ({
  kind: 'material',
  material: createMaterial(name, parameters),
  images: [],
})

const stool: PreviewSubject = {
  kind: 'model',
  objects: [
    {
      mesh: mergeMeshes([
        placeMesh(createBox(0.4, 0.04, 0.4, 0.005), [0, 0.44, 0]),
        ...[-0.16, 0.16].flatMap(x => [-0.16, 0.16].map(z => placeMesh(createBox(0.04, 0.44, 0.04), [x, 0, z]))),
      ]),
      material: createMaterial('wood', { baseColor: [0.35, 0.2, 0.1], specularRoughness: 0.5 }),
      images: [],
    },
    {
      mesh: createSphere(0.08, [0.05, 0.56, 0]),
      material: createMaterial('brass', { baseMetalness: 1, baseColor: [0.8, 0.55, 0.25], specularRoughness: 0.2 }),
      images: [],
    },
  ],
}

const plant: PreviewSubject = {
  kind: 'model',
  objects: [
    { mesh: createBox(0.03, 0.8, 0.03), material: createMaterial('stem', { baseColor: [0.2, 0.12, 0.06] }), images: [] },
    {
      mesh: mergeMeshes(
        Array.from({ length: 12 }, (_, k) =>
          placeMesh(
            createSheet(
              2,
              4,
              (s, t) => [(s - 0.5) * 0.12, t * 0.04, t * 0.22],
              () => [0, 0],
            ),
            [0, 0.3 + k * 0.04, 0],
            k * 2.4,
          ),
        ),
      ),
      material: createMaterial('leaf', {
        baseColor: [0.08, 0.25, 0.05],
        geometryThinWalled: true,
        subsurfaceWeight: 0.8,
        subsurfaceColor: [0.3, 0.6, 0.1],
      }),
      images: [],
    },
  ],
}

const lamp: PreviewSubject & { kind: 'model' } = {
  kind: 'model',
  objects: [
    {
      mesh: mergeMeshes([
        createBox(0.2, 0.03, 0.2),
        createBox(0.03, 1.2, 0.03),
        placeMesh(createBox(0.4, 0.01, 0.4), [0, 1.3, 0]),
      ]),
      material: createMaterial('steel', { baseMetalness: 1, baseColor: [0.5, 0.5, 0.5], specularRoughness: 0.4 }),
      images: [],
    },
    {
      mesh: createSphere(0.06, [0, 1.22, 0], 24),
      material: createMaterial('opal', { emissionLuminance: 800, emissionColor: [1, 0.85, 0.65] }),
      images: [],
    },
  ],
}

/** Throws its light to one side and down. */
const washer: Curve = {
  planesDeg: Array.from({ length: 25 }, (_, i) => i * 15),
  gammaDeg: Array.from({ length: 37 }, (_, i) => i * 2.5),
  intensity: (c, g) => {
    const [turn, down] = [(c * Math.PI) / 180, (g * Math.PI) / 180]
    return 400 * Math.max(0, Math.sin(down) * Math.cos(turn) * 0.6 + Math.cos(down) * 0.8) ** 3
  },
}

const oak = { baseColor: [0.42, 0.27, 0.15], specularRoughness: 0.45 } satisfies Partial<OpenPbrParameters>
const GLASS = {
  transmissionWeight: 1,
  specularRoughness: 0.02,
  transmissionColor: [0.8, 0.95, 0.9],
  transmissionDepth: 0.05,
} satisfies Partial<OpenPbrParameters>

const CASES: [string, HouseRigName, PreviewSubject][] = [
  ['material-stage', 'material-stage', material('oak', oak)],
  ['cloth-drape', 'cloth-drape', material('wool', { baseColor: [0.05, 0.2, 0.25], fuzzWeight: 0.6, specularRoughness: 0.9 })],
  ['glass-vessel', 'glass-vessel', material('glass', GLASS)],
  ['liquid-vessel', 'liquid-vessel', material('juice', { ...GLASS, transmissionColor: [0.9, 0.3, 0.1] })],
  ['material-close-up', 'material-close-up', material('oak', oak)],
  ['material-wall', 'material-wall', material('oak', oak)],
  ['model-three-quarter', 'model-three-quarter', stool],
  ['plant-three-quarter', 'plant-three-quarter', plant],
  ['leaf-close-up', 'leaf-close-up', plant],
  ['light-wall-wash', 'light-wall-wash', lamp],
  [
    'environment-strip',
    'environment-strip',
    { kind: 'environment', map: makeSunSky(40, 35), sun: { azimuthDeg: 40, elevationDeg: 35 } },
  ],
  ['light-bay', 'light-bay', { kind: 'light', web: readIes(writeIes(washer)) }],
  [
    'light-wall-wash-curve',
    'light-wall-wash',
    {
      ...lamp,
      web: readIes(
        writeIes({ ...washer, planesDeg: [0], intensity: (_, g) => 300 * Math.max(0, Math.cos((g * Math.PI) / 180)) }),
      ),
    },
  ],
  [
    'layer-brushed-metal',
    'material-stage',
    material('steel', {
      baseMetalness: 1,
      baseColor: [0.6, 0.6, 0.62],
      specularRoughness: 0.4,
      specularRoughnessAnisotropy: 0.8,
    }),
  ],
  [
    'layer-tinted-edge',
    'material-stage',
    material('copper', { baseMetalness: 1, baseColor: [0.9, 0.5, 0.35], specularColor: [0.4, 0.6, 1], specularRoughness: 0.25 }),
  ],
  [
    'layer-coat',
    'material-stage',
    material('lacquer', { ...oak, coatWeight: 1, coatColor: [0.8, 0.3, 0.2], coatRoughness: 0.05 }),
  ],
  [
    'layer-fuzz',
    'material-stage',
    material('velvet', { baseColor: [0.08, 0.02, 0.04], fuzzWeight: 1, fuzzColor: [0.9, 0.5, 0.6], fuzzRoughness: 0.4 }),
  ],
  [
    'layer-film',
    'material-stage',
    material('oxide', {
      baseMetalness: 1,
      baseColor: [0.5, 0.5, 0.5],
      thinFilmWeight: 1,
      thinFilmThickness: 0.35,
      specularRoughness: 0.25,
    }),
  ],
  [
    'layer-rough-diffuse',
    'material-stage',
    material('clay', { baseColor: [0.55, 0.3, 0.2], baseDiffuseRoughness: 1, specularWeight: 0 }),
  ],
  ['layer-rough-glass', 'material-stage', material('frosted', { ...GLASS, specularRoughness: 0.5 })],
]

const draw = (rig: HouseRigName, subject: PreviewSubject): ByteImage =>
  developForDisplay(renderPreview(subject, { rig: HOUSE_RIGS[rig], quality: QUALITY, seed: 1 })!.image)

const toPng = ({ width, height, data }: ByteImage): Promise<Buffer> =>
  sharp(data, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 9 })
    .toBuffer()

async function readPng(path: string): Promise<ByteImage> {
  const { data, info } = await sharp(await readFile(path))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  return { width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) }
}

describe('reference renderings', () => {
  for (const [name, rig, subject] of CASES)
    it(name, async () => {
      const picture = draw(rig, subject)
      const path = join(FOLDER, 'pictures', `${name}.png`)
      if (process.env.UPDATE_REFERENCES) {
        await mkdir(join(FOLDER, 'pictures'), { recursive: true })
        await writeFile(path, await toPng(picture))
      }
      expect(mean(computeFlip(await readPng(path), picture).data)).toBeLessThan(LIMIT)
    })

  it('would notice: another roughness, another light', async () => {
    const reference = await readPng(join(FOLDER, 'pictures', 'layer-coat.png'))
    const rougher = draw(
      'material-stage',
      material('lacquer', { ...oak, coatWeight: 1, coatColor: [0.8, 0.3, 0.2], coatRoughness: 0.4 }),
    )
    expect(mean(computeFlip(reference, rougher).data)).toBeGreaterThan(LIMIT)
    const turned = developForDisplay(
      renderPreview(material('oak', oak), {
        rig: { ...HOUSE_RIGS['material-stage'], lightTurnDeg: 20 },
        quality: QUALITY,
        seed: 1,
      })!.image,
    )
    expect(mean(computeFlip(await readPng(join(FOLDER, 'pictures', 'material-stage.png')), turned).data)).toBeGreaterThan(LIMIT)
  })
})
