import type { Tile } from '../../render/film/tile'
import { Rendering, type RenderSettings } from '../../render/integrator/render'
import type { MipCache } from '../../render/scene/scene'
import { sceneOfShot } from '../materials/variants'
import type { Scene, Shot } from '../scene/scene'
import type { Resources } from '../things/resources'
import { composeScene, exposeLamps, lightOfShot } from './compose'
import { KeptScene } from './kept-scene'
import { cameraOfShot } from './shot-camera'

export type ShotSettings = Omit<RenderSettings, 'height' | 'background'>

/** What one picture leaves for the next. */
export interface KeptForShots {
  mips: MipCache
  scene: KeptScene
}

/** Pixels of a shot of so many across. */
export const heightOfShot = ({ aspect }: Pick<Shot, 'aspect'>, width: number): number => Math.max(8, Math.round(width / aspect))

/**
 * A shot made ready to be traced, in whole or in parts; by the same seed it is the same to the pixel.
 * @param kept by whoever renders the same mock-up again: the shot made ready before is at an end with this one
 */
export function prepareShot(
  whole: Scene,
  shot: Shot,
  resources: Resources,
  kept: KeptForShots = { mips: new Map(), scene: new KeptScene() },
) {
  const scene = sceneOfShot(whole, shot)
  const { loose, placed, lamps } = composeScene(scene, resources, shot)
  const { light, background } = lightOfShot(scene, shot, resources)
  const built = kept.scene.show(loose, placed, exposeLamps(lamps, shot), kept.mips)
  const camera = cameraOfShot(shot)
  const settingsOf = (settings: ShotSettings): RenderSettings => ({
    guided: true,
    ...settings,
    height: heightOfShot(shot, settings.width),
    background,
  })
  return {
    triangles: built.triangleCount,
    placements: placed.reduce((sum, p) => sum + p.placements.length, 0),
    settingsOf,
    /** @param settings width in pixels; error of display luminance, 0..1 */
    start: (
      settings: ShotSettings,
      part?: { index: number; count: number },
      kept?: readonly Tile[] | null,
      judging?: { judgesItself: boolean },
    ) => new Rendering(built, light, camera, settingsOf(settings), part, kept, judging),
  }
}
