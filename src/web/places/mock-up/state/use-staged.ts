import { useMemo } from 'react'
import type { ByteImage } from '#core/image/image'
import { IDENTITY } from '#core/math/affine'
import type { Vec3 } from '#core/math/vec3'
import { composePieces, composePlants, composeStage, skyGroundOf } from '#core/mock-up/composing/compose'
import type { GroundOfSky } from '#core/mock-up/light/ground-of-sky'
import { composeLights } from '#core/mock-up/light/lamps'
import type { PartBook } from '#core/mock-up/materials/wearing'
import { type Castable, type CastHit, castInto, type Ray } from '#core/mock-up/placing/cast-into'
import { placeBox, placeOfPiece } from '#core/mock-up/placing/placing'
import type { Box } from '#core/mock-up/placing/snapping'
import { listStanding } from '#core/mock-up/placing/standing'
import type { Plant } from '#core/mock-up/planting/grow-planting'
import type { Scene } from '#core/mock-up/scene/scene'
import { listStageParts } from '#core/mock-up/stage-model/stage-of-model'
import type { Composed } from '#core/mock-up/things/composed'
import { boundsOf } from '#core/mock-up/things/resources'
import type { LiveResources } from './use-resources'
import { LIVE_SKY_PX } from './use-shots'

/** What a ray meets: a part of a piece, of the stage, a plant, or a light. */
export type Target =
  | { kind: 'piece'; id: string }
  | { kind: 'stage' }
  | { kind: 'planting'; id: string; plant: number }
  | { kind: 'light'; id: string }

export interface Staged {
  stage: ReturnType<typeof composeStage<ImageBitmap>>
  placed: readonly Composed<ImageBitmap>[]
  /** Around a stage that is a model; null of any other, and until it is there. */
  stageBox: Box | null
  /** Of pieces that are there, along the axes of the scene. */
  boxes: ReadonlyMap<string, Box>
  /** Pieces that stand on something. */
  standing: ReadonlySet<string>
  /** What pieces are held to besides each other: a room or a terrace as a box, the parts of a model one by one. */
  walls: readonly Box[]
  /** Of models, in their own space, by the keys of their inputs. */
  ownBoxes: ReadonlyMap<string, Box>
  book: PartBook
  /** What lies under a ray; less what is moved, for what moves it. */
  cast: (ray: Ray, leaveOut?: ReadonlySet<string>) => CastHit<Target> | null
}

/** The ground of a sky at a level. */
type SkyGround = (level: number) => GroundOfSky<ImageBitmap> | null

/** The ground of the sky in use, as the live view draws it. */
export function useSkyGround({ skies }: Pick<Scene, 'skies'>, sky: string | null, resources: LiveResources): SkyGround | null {
  return useMemo(() => {
    const found = skyGroundOf({ skies }, { sky }, resources, LIVE_SKY_PX)
    return (
      found &&
      (level => {
        const ground = found(level)
        return ground && { ...ground, images: ground.images.map(toBitmap) }
      })
    )
  }, [skies, sky, resources])
}

const bitmaps = new WeakMap<ByteImage, ImageBitmap>()
/** Once of each picture: what is drawn stays the same as long as it does. */
function toBitmap(image: ByteImage): ImageBitmap {
  let made = bitmaps.get(image)
  if (!made) {
    const canvas = new OffscreenCanvas(image.width, image.height)
    const rgba = new Uint8ClampedArray(image.width * image.height * 4).fill(255)
    for (let from = 0, to = 0; to < rgba.length; from += image.channels, to += 4)
      for (let c = 0; c < 3; c++) rgba[to + c] = image.data[from + c]
    // In memory: on the card it would wait until that has drawn.
    canvas.getContext('2d', { willReadFrequently: true })!.putImageData(new ImageData(rgba, image.width, image.height), 0, 0)
    made = canvas.transferToImageBitmap()
    bitmaps.set(image, made)
  }
  return made
}

/** A scene as it is drawn and touched. */
export function useStaged(
  scene: Scene,
  resources: LiveResources,
  plants: ReadonlyMap<string, readonly Plant[]>,
  ground: SkyGround | null,
): Staged {
  const { models, materials, webs } = resources
  const stage = useMemo(
    () => composeStage<ImageBitmap>(scene.stage, { models, materials }, ground),
    [scene.stage, models, materials, ground],
  )
  const pieces = useMemo(() => composePieces<ImageBitmap>(scene, { models, materials }), [scene, models, materials])
  const planted = useMemo(
    () =>
      Object.entries(scene.plantings).flatMap(([id, planting]) => {
        const isHidden = planting.isHidden || (planting.group !== null && scene.groups[planting.group]?.isHidden)
        return isHidden ? [] : composePlants<ImageBitmap>(id, planting, plants.get(id) ?? [], { models })
      }),
    [scene.plantings, scene.groups, plants, models],
  )
  const lights = useMemo(
    () => composeLights<ImageBitmap>({ lights: scene.lights, groups: scene.groups }, webs),
    [scene.lights, scene.groups, webs],
  )
  const ownBoxes = useMemo(() => new Map([...models].map(([key, parts]) => [key, boundsOf(parts)])), [models])
  return useMemo(() => {
    const boxes = new Map<string, Box>()
    const ownParts =
      scene.stage.kind === 'model'
        ? listStageParts(scene.stage, models).map(p => ({ name: p.name, own: p.material.name }))
        : stage.map(p => ({ name: p.name, own: '' }))
    for (const [id, piece] of Object.entries(scene.pieces)) {
      const own = ownBoxes.get(piece.item.inputKey)
      if (own) boxes.set(id, placeBox(placeOfPiece(piece), own))
    }
    const placed = [...pieces, ...planted, ...lights]
    const castables: Castable<Target>[] = [
      ...stage.map(part => ({
        of: { kind: 'stage' as const },
        box: boundsOf([part]),
        parts: [part],
        toWorld: IDENTITY,
        isTwoSided: scene.stage.kind === 'model',
      })),
      ...placed.flatMap(({ parts, placements, of }) => {
        const box = boundsOf(parts)
        return placements.map((toWorld, k) => ({ of: targetOf(of[k]), box, parts, toWorld, isTwoSided: true }))
      }),
    ]
    return {
      stage,
      placed,
      stageBox: scene.stage.kind === 'model' && stage.length > 0 ? boundsOf(stage) : null,
      boxes,
      walls: wallsOf(scene.stage, stage),
      standing: listStanding(scene.pieces, boxes, scene.stage.kind === 'model' ? levelsUnder(boxes, stage) : LEVELS_M),
      ownBoxes,
      book: {
        stageParts: ownParts,
        partsOf: piece => (models.get(piece.item.inputKey) ?? []).map(p => ({ name: p.name, own: p.material.name })),
      },
      cast: (ray, leaveOut) =>
        castInto(
          ray,
          leaveOut
            ? castables.filter(c => c.of.kind === 'stage' || (c.of.kind === 'piece' && !leaveOut.has(c.of.id)))
            : castables,
        ),
    }
  }, [scene.pieces, scene.stage, stage, pieces, planted, lights, ownBoxes, models])
}

function wallsOf(of: Scene['stage'], stage: Staged['stage']): Box[] {
  switch (of.kind) {
    case 'empty':
      return []
    case 'model':
      return stage.map(part => boundsOf([part]))
    default: {
      const [x, z] = [of.widthM / 2, of.depthM / 2]
      return [{ min: [-x, 0, -z], max: [x, of.kind === 'room' ? of.heightM : 0, z] }]
    }
  }
}

/** Floors of what is built here; a terrace lies a little over the ground. */
const LEVELS_M = [0, -0.06]

/** Of a model the heights of what lies just below the pieces. */
function levelsUnder(boxes: ReadonlyMap<string, Box>, stage: Staged['stage']): number[] {
  const known = levels.get(stage) ?? new Map<string, number | null>()
  levels.set(stage, known)
  const things = stage.map(part => ({ of: null, box: boundsOf([part]), parts: [part], toWorld: IDENTITY, isTwoSided: true }))
  return [...boxes.values()].flatMap(({ min, max }) => {
    const origin: Vec3 = [(min[0] + max[0]) / 2, min[1] + 0.05, (min[2] + max[2]) / 2]
    const key = origin.map(v => v.toFixed(3)).join()
    let level = known.get(key)
    if (level === undefined) {
      level = castInto({ origin, direction: [0, -1, 0] }, things)?.point[1] ?? null
      known.set(key, level)
    }
    return level ?? []
  })
}
/** Looked for once for each place: of a large model it takes its time. */
const levels = new WeakMap<Staged['stage'], Map<string, number | null>>()

const targetOf = (of: Composed<ImageBitmap>['of'][number]): Target =>
  of.piece !== undefined
    ? { kind: 'piece', id: of.piece }
    : of.light !== undefined
      ? { kind: 'light', id: of.light }
      : { kind: 'planting', id: of.planting, plant: of.plant }
