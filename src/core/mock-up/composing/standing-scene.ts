import type { Rendering } from '../../render/integrator/render'
import type { Scene, Shot } from '../scene/scene'
import type { Resources } from '../things/resources'
import { KeptScene } from './kept-scene'
import { type KeptForShots, prepareShot, type ShotSettings } from './render-shot'

/** A mock-up that stays while it is worked on: of a new look at it, what is as it was need not be built anew. */
export class StandingScene {
  private readonly kept: KeptForShots = { mips: new Map(), scene: new KeptScene() }

  /** @returns a rendering that ends when the next one starts: both work in the same memory */
  start(
    whole: Scene,
    shot: Shot,
    resources: Resources,
    settings: ShotSettings,
    part?: { index: number; count: number },
  ): Rendering {
    const prepared = prepareShot(whole, shot, resources, this.kept)
    return prepared.start({ guided: false, ...settings }, part, null, { judgesItself: false })
  }
}
