import { compareLights } from '#core/audit/compare-lights'
import type { Change } from '#core/audit/compare-materials'
import { compareModelUses, compareUses } from '#core/audit/compare-uses'
import { compareViews, type ViewPrint } from '#core/audit/compare-views'
import { asDelivered } from '#core/audit/material-print'
import { printModel, type SceneTreeNode } from '#core/audit/scene-tree'
import { comparePictures } from '#core/compare/compare-pictures'
import { FileError } from '#core/findings/failure'
import type { FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import type { Rig } from '#core/render/rigs/rig'
import type { ItemSource } from '../items/item-source'
import { loadItem } from '../items/load-item'
import type { SourceFile } from '../reading/source-file'
import { encodePicture } from '../writing/encode-picture'
import { withScene } from './gather-scene'
import { openSceneMaterial, renderOnRig, TEXTURE_PX } from './open-scene-material'
import { readScene, type SceneInventory } from './read-scene'
import { readSceneMaterials } from './read-scene-parts'

/** A thing of one scene and the same of another, by their numbers there: of materials, or of nodes. */
export interface ScenePair {
  own: number
  other: number
}

/** Numbers of the nodes where a model stands, and how many there are of it, instances included. */
export interface ModelPlaces {
  nodes: readonly number[]
  count: number
}

export interface ScenePairs {
  materials: readonly ScenePair[]
  models: readonly { own: ModelPlaces; other: ModelPlaces }[]
  lights: readonly ScenePair[]
}

export interface ComparedScenes {
  /** In the order of the pairs. */
  materials: Change[][]
  models: Change[][]
  lights: Change[][]
  /** Of the same name, or of the only one in each. */
  views: { name: string; changes: Change[] }[]
  viewsOnlyOwn: string[]
  viewsOnlyOther: string[]
}

type Scenes = readonly [own: readonly SourceFile[], other: readonly SourceFile[]]

/**
 * What is different about each of some items between two scenes, and about their views, from the other to this one.
 * @throws FileError where a scene does not read, or has nothing of such a number
 */
export const compareScenes = (scenes: Scenes, pairs: ScenePairs): Promise<ComparedScenes> =>
  withScene(scenes[0], async own => {
    const here = await readScene(own)
    return withScene(scenes[1], async other => {
      const there = await readScene(other)
      const forms = [own.form, other.form] as const
      return {
        materials: pairs.materials.map(pair => {
          const find = ({ materials }: SceneInventory, index: number) => materials.find(m => m.index === index)
          return compareUses(present(find(here, pair.own)), present(find(there, pair.other)), forms)
        }),
        models: pairs.models.map(pair => {
          const use = ({ roots }: SceneInventory, { nodes, count }: ModelPlaces) => ({
            prints: nodes.slice(0, MOST_PLACES).map(id => printModel(present(findNode(roots, id)))),
            count,
          })
          return compareModelUses(use(here, pair.own), use(there, pair.other))
        }),
        lights: pairs.lights.map(pair => {
          const find = ({ lights }: SceneInventory, node: number) => present(lights.find(l => l.node === node)).print
          return compareLights(find(here, pair.own), find(there, pair.other))
        }),
        ...compareAllViews(here.views, there.views),
      }
    })
  })

/** Of so many places of one model each is looked at. */
const MOST_PLACES = 100

function present<T>(thing: T | undefined): T {
  if (thing === undefined) throw new FileError('notFound', 'One of the scenes has nothing of this number any more.')
  return thing
}

function findNode(nodes: readonly SceneTreeNode[], id: number): SceneTreeNode | undefined {
  for (const node of nodes) {
    const found = node.id === id ? node : findNode(node.children, id)
    if (found) return found
  }
  return undefined
}

function compareAllViews(own: readonly ViewPrint[], other: readonly ViewPrint[]) {
  const isOnly = own.length === 1 && other.length === 1
  const pairs = own.flatMap(view => {
    const same = isOnly ? other[0] : other.find(o => o.name === view.name)
    return same ? [{ view, same }] : []
  })
  return {
    views: pairs.map(({ view, same }) => ({ name: view.name, changes: compareViews(view, same) })),
    viewsOnlyOwn: own.filter(view => !pairs.some(p => p.view === view)).map(view => view.name),
    viewsOnlyOther: other.filter(view => !pairs.some(p => p.same === view)).map(view => view.name),
  }
}

export interface PicturesBeside {
  /** As WebP. */
  own: Uint8Array
  other: Uint8Array
  flipMean: number
  deltaE00: number
}

/** Renders an item as each of two scenes has it on one rig. @param source of the library, for how large a repeat is */
export async function pictureBeside(scenes: Scenes, pair: ScenePair, source: ItemSource, rig: Rig): Promise<PicturesBeside> {
  const { loaded } = await loadItem(source, 'preview', TEXTURE_PX)
  if (loaded.kind !== 'material') throw new FileError('unsupported', 'Only materials are rendered beside each other.')
  const { tileSizeM, tiling } = asDelivered(loaded.material)
  const render = (files: readonly SourceFile[], index: number): Promise<FloatImage> =>
    withScene(files, async scene => {
      const material = (await readSceneMaterials(scene))[index]
      if (!material) throw new FileError('notFound', 'The scene has no material of this number.')
      return renderOnRig(await openSceneMaterial(scene, { ...material, tileSizeM, ...(tiling ? { tiling } : {}) }), rig)
    })
  const [own, other] = [await render(scenes[0], pair.own), await render(scenes[1], pair.other)]
  const { meanFlip, deltaEOfMeans } = comparePictures(other, own)
  const encode = async (image: FloatImage) => new Uint8Array(await encodePicture(developForDisplay(image), 'webp'))
  return { own: await encode(own), other: await encode(other), flipMean: meanFlip, deltaE00: deltaEOfMeans }
}
