import { strFromU8, unzipSync } from 'fflate'
import type { FileType } from '#core/codecs/sniff'
import { extensionOf } from '#core/codecs/sniff'
import type { Stamp } from '#core/stamp'
import { type NamedStamps, readObjStamps, readUsdStamps } from '#core/targets/read-stamps'
import { readModelText } from '../models/model-references'
import { readBytes, type SourceFile } from '../reading/source-file'

/** Stamps that a form holds in ways of its own, and that its reader does not bring along; null of one that has none. */
export async function readStamps(type: FileType, main: SourceFile, parts: readonly SourceFile[]): Promise<NamedStamps | null> {
  switch (type) {
    case 'obj': {
      const libraries = parts.filter(f => extensionOf(f.path) === 'mtl')
      return readObjStamps(await readModelText(main), await Promise.all(libraries.map(readModelText)))
    }
    case 'usda':
      return readUsdStamps(await readModelText(main))
    case 'usdz':
      return readUsdStamps(firstLayer(await readBytes(main)))
    default:
      return null
  }
}

/** The text layer that a package opens with; empty where it is not of text. */
function firstLayer(bytes: Uint8Array): string {
  let isFirst = true
  const found = unzipSync(bytes, {
    filter: ({ name }) => {
      const isLayer = isFirst && /\.usda$/i.test(name)
      isFirst = false
      return isLayer
    },
  })
  const [layer] = Object.values(found)
  return layer ? strFromU8(layer) : ''
}

interface Named {
  name?: string
  extras?: Record<string, unknown>
}

/** What of a scene's structure bears stamps. */
interface Stampable {
  materials?: Named[]
  nodes?: Named[]
  scenes?: { nodes?: number[] }[]
  scene?: number
}

/** Puts stamps on what they are of, by names, and gives things the names that people gave them; one of the whole is put on the one node that the scene begins with. */
export function stampScene(json: Stampable, { materials, nodes, whole, displayNames }: NamedStamps): void {
  const put = (thing: Named, stamp: Stamp | null | undefined) => {
    if (stamp) thing.extras = { ...thing.extras, muscovite: stamp }
  }
  for (const material of json.materials ?? []) put(material, materials.get(material.name ?? ''))
  for (const node of json.nodes ?? []) put(node, nodes.get(node.name ?? ''))
  const tops = json.scenes?.[json.scene ?? 0]?.nodes ?? []
  if (tops.length === 1 && nodes.size === 0) put(json.nodes![tops[0]], whole)
  for (const thing of [...(json.materials ?? []), ...(json.nodes ?? [])]) {
    const shown = displayNames.get(thing.name ?? '')
    if (shown !== undefined) thing.name = shown
  }
}
