import { type Document, type Node, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS, KHRLightsPunctual } from '@gltf-transform/extensions'
import sharp from 'sharp'
import type { FindingCode } from '#core/findings/finding'
import { countEdges } from '#core/geometry/edges'
import { move, rescale } from '#core/geometry/fixes/model-fixes'
import { measurePart } from '#core/geometry/measure-part'
import { computeBounds, mergeMeshes } from '#core/geometry/mesh'
import { modelFromDocument } from '#core/geometry/read-gltf'
import { createSphere } from '#core/geometry/shapes'
import type { Random } from '#core/math/random'
import { createPrimitive } from '../model-file'

export interface ModelFault {
  code: FindingCode
  entails: FindingCode[]
  fits: (document: Document) => boolean
  spoil: (document: Document, random: Random) => void | Promise<void>
  /** The files it comes as, by their endings; one binary glTF without it. */
  write?: (document: Document) => Promise<[string, Uint8Array][]>
}

const partNodes = (document: Document) =>
  document
    .getRoot()
    .listNodes()
    .filter(n => n.getMesh() !== null)
const pickNode = (document: Document, random: Random) => {
  const nodes = partNodes(document)
  return nodes[random.index(nodes.length)]
}
const extentOf = (document: Document): number => {
  const { min, max } = computeBounds(mergeMeshes(modelFromDocument(document).parts.map(p => p.mesh)).positions)
  return Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
}

/** Whether a part has two sides that are not the same: one that is bent on purpose, such as a leaf, is another matter. */
const isOpaque = (node: Node): boolean => {
  const material = primitiveOf(node).getMaterial()
  return material?.getAlphaMode() === 'OPAQUE' && !material.getExtension('KHR_materials_transmission')
}

/** Appends triangles to a primitive by the corners of its own. */
function append(document: Document, random: Random, corners: (old: readonly number[]) => number[]): void {
  const primitive = pickNode(document, random).getMesh()!.listPrimitives()[0]
  const indices = primitive.getIndices()!
  const old = Array.from(indices.getArray()! as ArrayLike<number>)
  indices.setArray(Uint32Array.from([...old, ...corners(old)]))
}

/** Parts whose nodes face outwards for certain: closed, and of some volume. */
const closedParts = (document: Document): number[] =>
  modelFromDocument(document).parts.flatMap((p, i) => {
    const e = countEdges(p.mesh)
    return e.edges > 0 && e.open === 0 && e.contrary === 0 && e.signedVolume > 1e-7 ? [i] : []
  })

export const MODEL_FAULTS: readonly ModelFault[] = [
  {
    code: 'unitSuspect',
    entails: ['degenerateTriangles'],
    fits: () => true,
    spoil: (document, random) => rescale(document, [1000, 100, 0.01, 1 / 0.0254, 0.001][random.index(5)]),
  },
  {
    code: 'pivotOffBase',
    entails: [],
    fits: () => true,
    spoil: (document, random) => {
      const away = extentOf(document) * random.between(0.4, 3)
      const turn = random.between(0, 2 * Math.PI)
      move(document, random.next() < 0.5 ? [0, away, 0] : [away * Math.cos(turn), 0, away * Math.sin(turn)])
    },
  },
  {
    code: 'defaultSurface',
    entails: [],
    fits: () => true,
    spoil: (document, random) => {
      const name = ['Material.001', 'default', 'lambert1', ''][random.index(4)]
      const plain = document.createMaterial(name).setBaseColorFactor([0.8, 0.8, 0.8, 1]).setMetallicFactor(0)
      pickNode(document, random).getMesh()!.listPrimitives()[0].setMaterial(plain)
    },
  },
  {
    code: 'strayObjects',
    entails: [],
    fits: () => true,
    spoil: (document, random) => {
      const [scene] = document.getRoot().listScenes()
      const kind = random.index(3)
      if (kind === 0) scene.addChild(document.createNode('Camera').setCamera(document.createCamera()))
      else if (kind === 1) scene.addChild(document.createNode('Locator'))
      else {
        const light = document.createExtension(KHRLightsPunctual).createLight()
        scene.addChild(document.createNode('Sun').setExtension('KHR_lights_punctual', light))
      }
    },
  },
  {
    code: 'degenerateTriangles',
    entails: [],
    fits: () => true,
    spoil: (document, random) => append(document, random, ([a, b]) => [a, a, b, b, b, a]),
  },
  {
    code: 'duplicateTriangles',
    entails: ['nonManifoldEdges'],
    fits: () => true,
    spoil: (document, random) => append(document, random, old => old.slice(0, 3 * (2 + random.index(10)))),
  },
  {
    code: 'nonManifoldEdges',
    // What hangs on an edge has no side of its own, and may lie flat on what is there.
    entails: ['windingInwards', 'degenerateTriangles', 'duplicateTriangles', 'vertexNormalsOff', 'textureCoordinatesMissing'],
    fits: () => true,
    spoil: (document, random) =>
      append(document, random, old => {
        const triangles = old.length / 3
        const whole = modelFromDocument(document).parts.reduce((sum, p) => sum + p.mesh.indices.length / 3, 0)
        const hung = Math.max(20, Math.round(whole * 0.01))
        return Array.from({ length: hung }, () => {
          const at = 3 * random.index(triangles)
          return [old[at + 1], old[at], old[random.index(old.length)]]
        }).flat()
      }),
  },
  {
    code: 'windingInwards',
    entails: [],
    fits: document => closedParts(document).length > 0,
    spoil: (document, random) => {
      const closed = closedParts(document)
      const primitive = partNodes(document)[closed[random.index(closed.length)]].getMesh()!.listPrimitives()[0]
      const array = primitive.getIndices()!.getArray()!.slice()
      for (let i = 0; i < array.length; i += 3) [array[i + 1], array[i + 2]] = [array[i + 2], array[i + 1]]
      primitive.getIndices()!.setArray(array)
    },
  },
  {
    code: 'vertexNormalsOff',
    entails: [],
    fits: document => partNodes(document).some(isOpaque),
    spoil: (document, random) => {
      const opaque = partNodes(document).filter(isOpaque)
      const node = opaque[random.index(opaque.length)]
      if (random.next() < 0.4) primitiveOf(node).setAttribute('NORMAL', null)
      else changeAttribute(document, node, 'NORMAL', v => -v)
    },
  },
  {
    code: 'nodeScaleOdd',
    entails: ['pivotOffBase', 'texelDensityUneven'],
    fits: () => true,
    spoil: (document, random) => {
      const stretch = random.between(1.05, 1.3)
      pickNode(document, random).setScale(random.next() < 0.5 ? [-1, 1, 1] : [1, 1, stretch])
    },
  },
  {
    code: 'texelDensityUneven',
    entails: [],
    fits: document => largeTexturedNodes(document).length > 1,
    spoil: (document, random) => {
      const [node] = largeTexturedNodes(document)
      const times = random.between(15, 30)
      changeAttribute(document, node, 'TEXCOORD_0', v => v * times)
    },
  },
  {
    code: 'texturesOverBudget',
    entails: ['texelDensityUneven'],
    fits: document => texturedNode(document) !== undefined,
    spoil: async (document, random) => {
      const side = [4096, 3000, 8192][random.index(3)]
      const plain = sharp({ create: { width: side, height: side, channels: 3, background: '#777' } })
      const texture = primitiveOf(texturedNode(document)!).getMaterial()!.getBaseColorTexture()!
      texture.setImage(new Uint8Array(await plain.png().toBuffer())).setMimeType('image/png')
    },
  },
  {
    code: 'externalFileMissing',
    entails: ['defaultSurface'],
    fits: document => texturedNode(document) !== undefined,
    spoil: () => {},
    write: writeWithoutOneTexture,
  },
  {
    code: 'levelNotLighter',
    entails: [],
    fits: () => true,
    spoil: () => {},
    write: async document => {
      const bytes = await writeDocument(document)
      return [
        ['.glb', bytes],
        ['_LOD1.glb', bytes],
      ]
    },
  },
  {
    code: 'textureCoordinatesMissing',
    entails: [],
    fits: document => texturedNode(document) !== undefined,
    spoil: document => {
      texturedNode(document)!.getMesh()!.listPrimitives()[0].setAttribute('TEXCOORD_0', null)
    },
  },
  {
    code: 'unnamedParts',
    entails: [],
    fits: () => true,
    spoil: (document, random) => {
      const node = pickNode(document, random)
      const name = ['Mesh_003', 'Object.12', '', 'polySurface4', 'Group1'][random.index(5)]
      node.getMesh()!.setName(name)
      node.setName(name)
    },
  },
  {
    code: 'overTriangleBudget',
    // The poles of the ball that is added.
    entails: ['degenerateTriangles'],
    fits: () => true,
    spoil: (document, random) => {
      const { min, max } = computeBounds(mergeMeshes(modelFromDocument(document).parts.map(p => p.mesh)).positions)
      const radius = Math.min(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 4
      const ball = createSphere(
        radius,
        [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2],
        2 * (260 + random.index(100)),
      )
      const primitive = createPrimitive(document, ball).setMaterial(
        document.createMaterial('Knob brass').setBaseColorFactor([0.7, 0.5, 0.2, 1]),
      )
      document
        .getRoot()
        .listScenes()[0]
        .addChild(document.createNode('Knob').setMesh(document.createMesh('Knob').addPrimitive(primitive)))
    },
  },
]

/** Nodes whose texture covers enough of the model that its sharpness shows. */
function largeTexturedNodes(document: Document): Node[] {
  const measured = partNodes(document).map((node, i) => {
    const hasTexture = node.getMesh()!.listPrimitives()[0].getMaterial()?.getBaseColorTexture() != null
    return { node, areaM2: hasTexture ? measurePart(modelFromDocument(document).parts[i].mesh).areaM2 : 0 }
  })
  const whole = measured.reduce((sum, m) => sum + m.areaM2, 0)
  return measured.filter(m => m.areaM2 > whole * 0.05).map(m => m.node)
}

const primitiveOf = (node: Node) => node.getMesh()!.listPrimitives()[0]

/** An attribute of a primitive in an accessor of its own, each number turned into another. */
function changeAttribute(document: Document, node: Node, name: string, turn: (value: number, index: number) => number): void {
  const old = primitiveOf(node).getAttribute(name)!
  const array = Float32Array.from(old.getArray()!, turn)
  primitiveOf(node).setAttribute(
    name,
    document.createAccessor().setType(old.getType()).setArray(array).setBuffer(old.getBuffer()),
  )
}

/** A glTF of loose files, one of its textures left behind. */
async function writeWithoutOneTexture(document: Document): Promise<[string, Uint8Array][]> {
  const textures = document.getRoot().listTextures()
  for (const [i, texture] of textures.entries()) texture.setURI(`surface_${i}.${texture.getMimeType().split('/').pop()}`)
  document.getRoot().listBuffers()[0].setURI('shape.bin')
  const { json, resources } = await io().writeJSON(document)
  const left = textures[0].getURI()
  return [
    ['.gltf', new TextEncoder().encode(JSON.stringify(json))],
    ...Object.entries(resources)
      .filter(([uri]) => uri !== left)
      .map(([uri, bytes]): [string, Uint8Array] => [`/${uri}`, bytes]),
  ]
}

const texturedNode = (document: Document) =>
  partNodes(document).find(n => n.getMesh()!.listPrimitives()[0].getMaterial()?.getBaseColorTexture())

const io = () => new WebIO().registerExtensions(ALL_EXTENSIONS)
export const readDocument = (bytes: Uint8Array): Promise<Document> => io().readBinary(bytes)
export const writeDocument = (document: Document): Promise<Uint8Array> => io().writeBinary(document)

/** Whether a model as generated has triangles without area: at the poles of what was turned on a lathe. */
export function hasFlatTriangles(document: Document): boolean {
  return modelFromDocument(document).parts.some(({ mesh: { positions: p, indices } }) => {
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
      const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
      const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
      if (Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) < 1e-10) return true
    }
    return false
  })
}
