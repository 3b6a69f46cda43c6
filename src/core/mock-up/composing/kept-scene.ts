import { IDENTITY } from '../../math/affine'
import { numberOf } from '../../math/number-of'
import type { Lamp } from '../../render/scene/lamp'
import { createScene, type MipCache, placeElsewhere, type Scene as RenderScene, withMaterials } from '../../render/scene/scene'
import { SimdCaster } from '../../render/scene/simd-caster'
import { TreeCache } from '../../render/scene/tree-cache'
import type { Composed, ComposedPart } from '../things/composed'

/** Of what pictures leave behind in its memory, as much as a scene may grow by before it is built anew. */
const MOST_GROWN_BYTES = 128 * 1024 ** 2

interface Built {
  /** What the trees depend on, and what the materials do. */
  meshes: string
  looks: string
  scene: RenderScene
  caster: SimdCaster
  /** Of its memory, with its pictures, once something was rendered of it. */
  bytes: number | null
}

/**
 * What is drawn of a mock-up, from one picture to the next. What only stands elsewhere is put there; what only looks otherwise is given its
 * materials; where something has come or gone, the trees over all that is still there are taken over. A picture is the same as of a scene
 * that was built for it.
 */
export class KeptScene {
  private built: Built | null = null
  private trees = new TreeCache()

  /** @returns a scene that is good until the next one is asked for: both have the same memory */
  show(
    loose: readonly ComposedPart[],
    placed: readonly Pick<Composed, 'parts' | 'placements'>[],
    lamps: readonly Lamp[],
    mips: MipCache,
  ): RenderScene {
    const things = [{ parts: loose, placements: [IDENTITY] }, ...placed]
    const meshes = JSON.stringify(things.map(t => t.parts.map(p => numberOf(p.mesh))))
    const looks = JSON.stringify(things.map(t => t.parts.map(looksLike)))
    const scene = this.goOnWith(meshes, looks, things, mips)
    if (scene) {
      scene.lamps = lamps
      return scene
    }
    // Before another is built: they are large.
    this.built = null
    const shapes = things.map(({ parts, placements }) => ({ objects: parts, placements }))
    const fresh = createScene([], mips, lamps, shapes, this.trees)
    const { caster } = fresh
    if (caster instanceof SimdCaster) this.built = { meshes, looks, scene: fresh, caster, bytes: null }
    return fresh
  }

  letGo(): void {
    this.built = null
    this.trees = new TreeCache()
  }

  private goOnWith(
    meshes: string,
    looks: string,
    things: readonly Pick<Composed, 'parts' | 'placements'>[],
    mips: MipCache,
  ): RenderScene | null {
    const { built } = this
    if (built?.meshes !== meshes) return null
    built.bytes ??= built.caster.bytes
    if (built.caster.bytes - built.bytes > MOST_GROWN_BYTES) return null
    if (built.looks !== looks) {
      const worn = withMaterials(
        built.scene,
        things.flatMap(t => t.parts),
        mips,
      )
      if (!worn) return null
      built.scene = worn
      built.looks = looks
    }
    const placements = things.flatMap(({ placements }, shape) => placements.map(toWorld => ({ shape, toWorld })))
    placeElsewhere(built.scene, placements)
    return built.scene
  }
}

/** Pictures are the same objects as long as they are kept. */
const looksLike = ({ material, images }: ComposedPart): unknown => [images.map(numberOf), material]
