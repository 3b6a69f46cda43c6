import { IDENTITY, invertAffine } from '../../math/affine'
import { Rendering } from '../../render/integrator/render'
import { createScene, type MipCache, type Scene as RenderScene } from '../../render/scene/scene'
import { SimdCaster } from '../../render/scene/simd-caster'
import { sceneOfShot } from '../materials/variants'
import type { Scene, Shot } from '../scene/scene'
import type { Composed } from '../things/composed'
import type { Resources } from '../things/resources'
import { composeScene, exposeLamps, lightOfShot } from './compose'
import { heightOfShot, type ShotSettings } from './render-shot'
import { cameraOfShot } from './shot-camera'

/**
 * A mock-up that stays while it is worked on: what is only moved, turned or looked at from elsewhere needs nothing built anew; only a new look
 * of something does.
 */
export class StandingScene {
  private readonly mipCache: MipCache = new Map()
  private built: { key: string; scene: RenderScene } | null = null

  /** @returns a rendering that ends when the next one starts: both work in the same memory */
  start(
    whole: Scene,
    shot: Shot,
    resources: Resources,
    settings: ShotSettings,
    part?: { index: number; count: number },
  ): Rendering {
    const scene = sceneOfShot(whole, shot)
    const { loose, placed, lamps } = composeScene(scene, resources, shot)
    const all: Pick<Composed, 'parts' | 'placements'>[] = [{ parts: loose, placements: [IDENTITY] }, ...placed]
    const key = JSON.stringify(all.map(p => p.parts.map(looksLike)))
    const kept = this.built?.key === key ? this.built.scene : null
    if (kept && kept.caster instanceof SimdCaster) this.place(kept, kept.caster, all)
    else {
      this.built = {
        key,
        scene: createScene(
          [],
          this.mipCache,
          [],
          all.map(({ parts, placements }) => ({ objects: parts, placements })),
        ),
      }
    }
    this.built!.scene.lamps = exposeLamps(lamps, shot)
    const { light, background } = lightOfShot(scene, shot, resources)
    const settled = { ...settings, height: heightOfShot(shot, settings.width), background }
    return new Rendering(this.built!.scene, light, cameraOfShot(shot), settled, part, null, { judgesItself: false })
  }

  private place(scene: RenderScene, caster: SimdCaster, all: readonly Pick<Composed, 'placements'>[]): void {
    const placements = all.flatMap(({ placements }, shape) => placements.map(toWorld => ({ shape, toWorld })))
    caster.place(placements)
    scene.placements = placements
    scene.backOf = placements.map(p => invertAffine(p.toWorld) ?? IDENTITY)
  }
}

const numbers = new WeakMap<object, number>()
let last = 0
function numberOf(thing: object): number {
  const known = numbers.get(thing)
  if (known !== undefined) return known
  numbers.set(thing, ++last)
  return last
}

/** Meshes and pictures are the same objects as long as they are kept. */
const looksLike = ({ mesh, material, images }: Composed['parts'][number]): unknown => [
  numberOf(mesh),
  images.map(numberOf),
  material.parameters,
  material.textures,
]
