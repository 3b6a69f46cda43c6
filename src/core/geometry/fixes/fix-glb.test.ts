import { Document, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS, KHRLightsPunctual } from '@gltf-transform/extensions'
import { describe, expect, it } from 'vitest'
import type { Finding } from '../../findings/finding'
import { proposeFix } from '../../fixes/fix'
import { analyseModel } from '../analyse-model'
import { countEdges } from '../edges'
import { type Mesh, mergeMeshes } from '../mesh'
import { parseGlb } from '../read-gltf'
import { createBox, createSphere } from '../shapes'
import { fixGlb } from './fix-glb'

const EXPECTED = { expectedSizeM: [0.4, 1.3] as [number, number], triangleBudget: 2000 }
const io = () => new WebIO().registerExtensions(ALL_EXTENSIONS)

interface Wrong {
  scale?: number
  offset?: [number, number, number]
  inwards?: boolean
  strays?: boolean
  doubled?: boolean
  normals?: 'none' | 'turned' | 'outwards'
  names?: string[]
  mesh?: Mesh
}

/** A stool with one thing wrong. */
async function makeStool(wrong: Wrong): Promise<Uint8Array> {
  const { scale = 1, offset = [0, 0, 0], names = ['Seat'] } = wrong
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const material = document.createMaterial('Oak oiled').setBaseColorFactor([0.4, 0.25, 0.1, 1])
  for (const name of names) {
    const mesh = wrong.mesh ?? createBox(0.4, 0.5, 0.4)
    let indices = [...mesh.indices]
    if (wrong.inwards) indices = indices.map((_, i) => mesh.indices[i % 3 === 1 ? i + 1 : i % 3 === 2 ? i - 1 : i])
    if (wrong.doubled) indices.push(...indices.slice(0, 6), 0, 0, 1)
    const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
      document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', mesh.positions.slice()))
      .setAttribute('TEXCOORD_0', accessor('VEC2', mesh.uvs.slice()))
      .setIndices(accessor('SCALAR', Uint32Array.from(indices)))
      .setMaterial(material)
    const turnsNormals = wrong.normals === 'turned' || (wrong.inwards === true && wrong.normals !== 'outwards')
    if (wrong.normals !== 'none')
      primitive.setAttribute('NORMAL', accessor('VEC3', turnsNormals ? mesh.normals.map(v => -v) : mesh.normals.slice()))
    const node = document.createNode(name).setMesh(document.createMesh().addPrimitive(primitive))
    scene.addChild(node.setTranslation(offset).setScale([scale, scale, scale]))
  }
  if (wrong.strays) {
    const lights = document.createExtension(KHRLightsPunctual)
    scene.addChild(document.createNode('lamp').setExtension('KHR_lights_punctual', lights.createLight()))
    scene.addChild(document.createNode('camera').setCamera(document.createCamera()))
    scene.addChild(document.createNode('empty'))
  }
  return io().writeBinary(document)
}

const analyse = async (bytes: Uint8Array) => analyseModel(await parseGlb(bytes), EXPECTED)

/** Applies what is proposed for the findings of a code, and analyses anew. */
async function fix(bytes: Uint8Array, code: Finding['code']) {
  const before = await analyse(bytes)
  const found = before.findings.filter(f => f.code === code)
  expect(found.length).toBeGreaterThan(0)
  const fixed = await fixGlb(
    bytes,
    found.map(f => proposeFix(f)!),
  )
  const after = await analyse(fixed)
  expect(after.findings.map(f => f.code)).not.toContain(code)
  return { before, after, fixed }
}

describe('model fixes answer their findings', () => {
  it('a stool in millimetres becomes one in metres', async () => {
    const { after } = await fix(await makeStool({ scale: 1000 }), 'unitSuspect')
    expect(after.facts.heightM).toBeCloseTo(0.5, 5)
    expect(after.findings).toEqual([])
  })

  it('a stool in mid-air comes to stand at the origin', async () => {
    const bytes = await makeStool({ offset: [3, 1, -2] })
    const { fixed } = await fix(bytes, 'pivotOffBase')
    const { positions } = (await parseGlb(fixed)).parts[0].mesh
    const ys = positions.filter((_, i) => i % 3 === 1)
    expect(Math.min(...ys)).toBeCloseTo(0, 6)
  })

  it('strays go, the stool stays', async () => {
    const { before, after } = await fix(await makeStool({ strays: true }), 'strayObjects')
    expect(after.facts).toEqual(before.facts)
  })

  it('doubled and flat triangles go', async () => {
    const bytes = await makeStool({ doubled: true })
    expect((await analyse(bytes)).findings.map(f => f.code)).toEqual(
      expect.arrayContaining(['duplicateTriangles', 'degenerateTriangles']),
    )
    const { after } = await fix(bytes, 'duplicateTriangles')
    expect(after.facts.triangles).toBe(12)
    expect(after.findings).toEqual([])
  })

  it('what faces inwards is turned, its normals too', async () => {
    const { fixed } = await fix(await makeStool({ inwards: true }), 'windingInwards')
    const { mesh } = (await parseGlb(fixed)).parts[0]
    expect(countEdges(mesh).signedVolume).toBeCloseTo(0.08, 6)
    // A vertex of the upper side has a normal that looks up.
    for (let v = 0; v < mesh.positions.length / 3; v++)
      if (mesh.normals[v * 3 + 1] > 0.9) expect(mesh.positions[v * 3 + 1]).toBeCloseTo(0.5, 5)
  })

  it('what faces inwards keeps normals that looked outwards all along', async () => {
    const { after } = await fix(await makeStool({ inwards: true, normals: 'outwards' }), 'windingInwards')
    expect(after.findings).toEqual([])
  })

  it.each(['none', 'turned'] as const)(
    'normals that are %s are computed anew: flat on a box, smooth on a ball',
    async normals => {
      const box = (await parseGlb((await fix(await makeStool({ normals }), 'vertexNormalsOff')).fixed)).parts[0].mesh
      for (let v = 0; v < box.normals.length; v += 3)
        expect(Math.max(...[0, 1, 2].map(c => Math.abs(box.normals[v + c])))).toBeCloseTo(1, 5)
      const round = createSphere(0.3, [0, 0.3, 0], 24)
      const { fixed } = await fix(await makeStool({ normals, mesh: round }), 'vertexNormalsOff')
      const ball = (await parseGlb(fixed)).parts[0].mesh
      for (let v = 0; v < ball.normals.length; v += 3) {
        const [x, y, z] = [0, 1, 2].map(c => (ball.positions[v + c] - (c === 1 ? 0.3 : 0)) / 0.3)
        expect(ball.normals[v] * x + ball.normals[v + 1] * y + ball.normals[v + 2] * z).toBeGreaterThan(0.99)
      }
      // Corners that are smooth again are one vertex again.
      expect(ball.positions.length).toBeLessThanOrEqual(round.positions.length)
    },
  )

  it('parts without a telling name are called by their material', async () => {
    const { fixed } = await fix(await makeStool({ names: ['Mesh_001', 'Mesh_002', 'Seat'] }), 'unnamedParts')
    expect((await parseGlb(fixed)).parts.map(p => p.name)).toEqual(['Oak oiled', 'Oak oiled 2', 'Seat'])
  })

  it('too many triangles become few, in the same shape', async () => {
    const { before, after } = await fix(await makeStool({ mesh: createSphere(0.3, [0, 0.3, 0], 96) }), 'overTriangleBudget')
    expect(after.facts.triangles).toBeLessThanOrEqual(2000)
    expect(after.facts.triangles).toBeGreaterThan(500)
    expect(Math.abs(after.facts.surfaceAreaM2 / before.facts.surfaceAreaM2 - 1)).toBeLessThan(0.02)
  })

  it('what is no glTF, and a fix of another kind, are refused', async () => {
    await expect(fixGlb(new Uint8Array(40), [])).rejects.toMatchObject({ name: 'FileError' })
    await expect(fixGlb(await makeStool({}), [{ code: 'flipGreen', parameters: {} }])).rejects.toThrow(RangeError)
  })
})

describe('edges', () => {
  it('of a closed box are all shared by two; an open one has a rim; a wing makes an edge of three', () => {
    const box = createBox(1, 1, 1)
    expect(countEdges(box)).toMatchObject({ open: 0, nonManifold: 0, contrary: 0, duplicates: 0, edges: 18 })
    expect(countEdges(box).signedVolume).toBeCloseTo(1, 6)
    const open = { ...box, indices: box.indices.slice(6) }
    expect(countEdges(open).open).toBe(4)
    const wing: Mesh = {
      positions: Float32Array.from([-0.5, 0, -0.5, 0.5, 0, -0.5, 0, -1, -0.5]),
      normals: new Float32Array(9),
      uvs: new Float32Array(6),
      indices: Uint32Array.from([0, 1, 2]),
    }
    expect(countEdges(mergeMeshes([box, wing])).nonManifold).toBe(1)
    const turned = { ...box, indices: box.indices.slice() }
    ;[turned.indices[1], turned.indices[2]] = [turned.indices[2], turned.indices[1]]
    expect(countEdges(turned).contrary).toBe(3)
  })
})
