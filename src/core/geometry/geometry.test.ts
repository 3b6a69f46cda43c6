import { describe, expect, it } from 'vitest'
import { makeModelBytes } from '../../../tests/fixtures'
import { FileError } from '../findings/failure'
import { createMaterial } from '../material/open-pbr'
import { createRandom } from '../math/random'
import { analyseModel } from './analyse-model'
import { guessUnitFactor } from './checks/unit.check'
import { assertMesh, computeBounds, type Mesh, mergeMeshes, placeMesh } from './mesh'
import type { Model } from './model'
import { parseGlb } from './read-gltf'
import { createBox, createExtrusion, createLathe, createSphere, createTube } from './shapes'

/** Volume by the divergence theorem: positive when every face looks outwards. */
function signedVolume({ positions: p, indices }: Mesh): number {
  let sum = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
    sum +=
      p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]) +
      p[a + 1] * (p[b + 2] * p[c] - p[b] * p[c + 2]) +
      p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c])
  }
  return sum / 6
}

describe('shapes', () => {
  it('close, and look outwards', () => {
    expect(signedVolume(createSphere(1))).toBeCloseTo((4 / 3) * Math.PI, 1)
    expect(signedVolume(createBox(1, 2, 3))).toBeCloseTo(6, 3)
    expect(signedVolume(createBox(1, 1, 1, 0.1))).toBeGreaterThan(0.9)
    const outline: [number, number][] = [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]
    expect(Math.abs(signedVolume(createExtrusion(outline, 2)))).toBeCloseTo(2, 3)
  })

  it('are sound meshes with unit normals', () => {
    for (const mesh of [
      createSphere(0.3),
      createBox(1, 1, 1, 0.05),
      createLathe([
        [0.1, 0],
        [0.2, 1],
      ]),
      createTube(
        [
          [0, 0, 0],
          [0, 1, 0],
          [1, 2, 0],
        ],
        0.1,
      ),
    ]) {
      assertMesh(mesh)
      for (let i = 0; i < mesh.normals.length; i += 3)
        expect(Math.hypot(mesh.normals[i], mesh.normals[i + 1], mesh.normals[i + 2])).toBeCloseTo(1, 3)
    }
  })

  it('merge and move as told', () => {
    const two = mergeMeshes([createBox(1, 1, 1), placeMesh(createBox(1, 1, 1), [4, 0, 0])])
    assertMesh(two)
    const { min, max } = computeBounds(two.positions)
    expect(max[0] - min[0]).toBeCloseTo(5)
    expect(computeBounds([]).max).toEqual([0, 0, 0])
  })
})

const modelOf = (mesh: Mesh, change: Partial<Model> = {}, part: Partial<Model['parts'][number]> = {}): Model => ({
  parts: [{ name: 'seat', mesh, material: 0, hasUvs: true, ...part }],
  materials: [createMaterial('Oak', { baseColor: [0.3, 0.2, 0.1] })],
  images: [],
  missingFiles: [],
  strays: { cameras: 0, lights: 0, emptyNodes: 0, animations: 0 },
  ...change,
})
const chair = { expectedSizeM: [0.4, 1.3] as [number, number], triangleBudget: 200_000 }

describe('model checks', () => {
  const codes = (model: Model, expectation: Parameters<typeof analyseModel>[1] = chair) =>
    analyseModel(model, expectation).findings.map(f => f.code)
  const box = createBox(0.5, 0.8, 0.5)

  it('pass a sound model, and measure it', () => {
    const { facts, findings } = analyseModel(modelOf(box), chair)
    expect(findings).toEqual([])
    expect(facts).toMatchObject({ triangles: box.indices.length / 3, parts: 1 })
    expect(facts.heightM).toBeCloseTo(0.8)
    expect(facts.surfaceAreaM2).toBeCloseTo(2 * 0.25 + 4 * 0.4, 3)
  })

  it('find each fault, and only there', () => {
    expect(codes(modelOf(placeMesh(box, [0, 0, 0], 0, 100)))).toContain('unitSuspect')
    expect(codes(modelOf(placeMesh(box, [3, 0, 0])))).toEqual(['pivotOffBase'])
    expect(codes(modelOf(box, { materials: [createMaterial('Material.001', { baseColor: [0.8, 0.8, 0.8] })] }))).toEqual([
      'defaultSurface',
    ])
    expect(codes(modelOf(box, {}, { material: -1 }))).toEqual(['defaultSurface'])
    expect(codes(modelOf(box, { strays: { cameras: 1, lights: 0, emptyNodes: 0, animations: 0 } }))).toEqual(['strayObjects'])
    expect(codes(modelOf(box, {}, { name: 'Cube.003' }))).toEqual(['unnamedParts'])
    expect(codes(modelOf(box), { ...chair, triangleBudget: 4 })).toEqual(['overTriangleBudget'])
    const textured = createMaterial('Oak', {}, { textures: { baseColor: { image: 0, channel: 0 } } })
    expect(codes(modelOf(box, { materials: [textured] }, { hasUvs: false }))).toEqual(['textureCoordinatesMissing'])
    const flat = { ...box, positions: Float32Array.from(box.positions) }
    flat.positions.fill(0, 0, 9)
    expect(codes(modelOf(flat))).toContain('degenerateTriangles')
  })

  it('find texture coordinates that cover nothing, and parts textured unevenly', () => {
    const materials = [0, 1].map(image => createMaterial('Oak', {}, { textures: { baseColor: { image, channel: 0 } } }))
    const images = [0, 1].map(i => ({ name: `oak ${i}`, mediaType: 'image/png', bytes: new Uint8Array() }))
    const flat = { ...box, uvs: new Float32Array(box.uvs.length) }
    expect(analyseModel(modelOf(flat, { materials, images }), chair).findings).toMatchObject([
      { code: 'textureCoordinatesMissing', subject: 'seat', evidence: { reason: 'noArea' } },
    ])
    const seat = { name: 'seat', mesh: box, material: 0, hasUvs: true }
    const back = { ...seat, name: 'back', material: 1 }
    const model = modelOf(box, { materials, images, parts: [seat, back] })
    const sized = (px: number) => ({ ...chair, imageSizes: [512, px].map(side => ({ widthPx: side, heightPx: side })) })
    expect(analyseModel(model, sized(1024)).findings).toEqual([])
    const [uneven] = analyseModel(model, sized(4096)).findings.filter(f => f.code !== 'texturesOverBudget')
    expect(uneven).toMatchObject({ code: 'texelDensityUneven', evidence: { lowPart: 'seat', highPart: 'back' } })
    expect(Number(uneven.evidence.highPxM) / Number(uneven.evidence.lowPxM)).toBeCloseTo(8, 3)
    // Half the surface at each density: the root of the mean square.
    const { texelDensityPxM } = analyseModel(model, sized(4096)).facts
    expect(texelDensityPxM! / Number(uneven.evidence.lowPxM)).toBeCloseTo(Math.sqrt((1 + 64) / 2), 3)
  })

  it('find vertex normals that are missing or look away, but not on what is inside out as a whole', () => {
    const turned = (share: number) => ({
      ...box,
      normals: box.normals.map((v, i) => (i / 3 < (box.normals.length / 3) * share ? -v : v)),
    })
    const inwards = { ...box, indices: box.indices.map((_, i) => box.indices[i % 3 === 1 ? i + 1 : i % 3 === 2 ? i - 1 : i]) }
    expect(codes(modelOf(box, {}, { hasNormals: false }))).toEqual(['vertexNormalsOff'])
    expect(codes(modelOf(turned(0.4)))).toEqual(['vertexNormalsOff'])
    expect(codes(modelOf(inwards))).toEqual(['windingInwards'])
    const leaf = [createMaterial('Leaf', { geometryThinWalled: true })]
    expect(codes(modelOf(turned(0.4), { materials: leaf }))).toEqual([])
  })

  it('guess the unit', () => {
    expect(guessUnitFactor(0.9, [0.4, 1.3])).toBe(1)
    expect(guessUnitFactor(90, [0.4, 1.3])).toBe(0.01)
    expect(guessUnitFactor(900, [0.4, 1.3])).toBe(0.001)
    expect(guessUnitFactor(35, [0.4, 1.3])).toBe(0.0254)
  })
})

describe('reading binary glTF', () => {
  it('gives parts in world space with their materials', async () => {
    const model = await parseGlb(await makeModelBytes())
    expect(model.parts.map(p => p.name)).toEqual(['seat', 'ball'])
    expect(model.materials.map(m => m.name)).toEqual(['Painted oak', 'Brass'])
    expect(model.materials[1].parameters.baseMetalness).toBe(1)
  })

  it('refuses what is cut off or damaged with a sentence', async () => {
    const bytes = await makeModelBytes()
    await expect(parseGlb(bytes.slice(0, 10))).rejects.toBeInstanceOf(FileError)
    await expect(parseGlb(bytes.slice(0, bytes.length / 2))).rejects.toMatchObject({ code: 'truncated' })
    const random = createRandom(5)
    for (let k = 0; k < 30; k++) {
      const mutant = bytes.slice()
      for (let n = 0; n < 6; n++) mutant[12 + random.index(1200)] = random.index(256)
      try {
        const model = await parseGlb(mutant)
        for (const part of model.parts) assertMesh(part.mesh)
      } catch (error) {
        expect(error).toBeInstanceOf(FileError)
      }
    }
  })
})
