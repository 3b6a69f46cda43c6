import type { Tile } from '../../render/film/tile'
import { Rendering, type RenderSettings } from '../../render/integrator/render'
import { createScene, type MipCache } from '../../render/scene/scene'
import { sceneOfShot } from '../materials/variants'
import type { Scene, Shot } from '../scene/scene'
import type { Resources } from '../things/resources'
import { composeScene, exposeLamps, lightOfShot, toPlacedObjects } from './compose'
import { cameraOfShot } from './shot-camera'

export type ShotSettings = Omit<RenderSettings, 'height' | 'background'>

/** Pixels of a shot of so many across. */
export const heightOfShot = ({ aspect }: Pick<Shot, 'aspect'>, width: number): number => Math.max(8, Math.round(width / aspect))

/**
 * A shot made ready to be traced, in whole or in parts; by the same seed it is the same to the pixel.
 * @param settings width in pixels; error of display luminance, 0..1
 */
export function prepareShot(whole: Scene, shot: Shot, resources: Resources, mipCache: MipCache = new Map()) {
  const scene = sceneOfShot(whole, shot)
  const { loose, placed, lamps } = composeScene(scene, resources, shot)
  const { light, background } = lightOfShot(scene, shot, resources)
  const built = createScene(loose, mipCache, exposeLamps(lamps, shot), placed.map(toPlacedObjects))
  const camera = cameraOfShot(shot)
  const settingsOf = (settings: ShotSettings): RenderSettings => ({
    guided: true,
    ...settings,
    height: heightOfShot(shot, settings.width),
    background,
  })
  return {
    triangles: built.triangleCount,
    placements: built.placements.length,
    settingsOf,
    start: (
      settings: ShotSettings,
      part?: { index: number; count: number },
      kept?: readonly Tile[] | null,
      judging?: { judgesItself: boolean },
    ) => new Rendering(built, light, camera, settingsOf(settings), part, kept, judging),
  }
}
