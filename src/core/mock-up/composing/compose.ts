import { blurMap } from '../../environment/blur-map'
import type { Mesh } from '../../geometry/mesh'
import type { ByteImage, FloatImage } from '../../image/image'
import { createMaterial, isColorParameter, type OpenPbrMaterial, type TextureSlot } from '../../material/open-pbr'
import { isShifted, type MaterialShift, NO_SHIFT, shiftParameters } from '../../material/shift'
import { toRadians } from '../../math/angles'
import { scale, type Vec3 } from '../../math/vec3'
import { type Backdrop, EnvironmentLight } from '../../render/lights/environment-light'
import { createExposedLight, houseLightMap } from '../../render/lights/house-light'
import type { Lamp } from '../../render/scene/lamp'
import type { PlacedObjects } from '../../render/scene/scene'
import { daylightShare } from '../light/daylight-share'
import { type GroundOfSky, groundOfSky } from '../light/ground-of-sky'
import { composeLights, lampsOfGlowing, lampsOfLights } from '../light/lamps'
import { mapOfSky } from '../light/sky-map'
import { affineOfTurn, placeBox, placeOfPiece, standingCircle } from '../placing/placing'
import { createGround, type GroundAt, meshesUnder } from '../planting/ground'
import { growPlanting, type Plant } from '../planting/grow-planting'
import { isHidden } from '../scene/pieces'
import type { Assignment, Piece, Planting, Scene, Shot, Sky } from '../scene/scene'
import { listStageParts, type ModelStage, wornOfModel } from '../stage-model/stage-of-model'
import { layTexture } from '../texture/lay-texture'
import type { Composed, ComposedPart } from '../things/composed'
import { bakeShift, boundsOf, type Look, type ResourcePart, type Resources } from '../things/resources'
import { buildStage, type StagePart } from './stage-parts'

/** A grey that nobody takes for a choice. */
const UNDECIDED: Readonly<Record<string, number>> = { ground: 0.32, paving: 0.5, floor: 0.45, ceiling: 0.82 }
const UNDECIDED_WALL = 0.7

const stages = new Map<string, StagePart[]>()
/** A stage of the same measures has the same meshes. */
function partsOfStage({ materials: _, ...measures }: Scene['stage']): StagePart[] {
  const key = JSON.stringify(measures)
  const known = stages.get(key)
  if (known) return known
  if (stages.size >= MOST_LAID_OUT) stages.clear()
  const parts = buildStage({ ...measures, materials: {} } as Scene['stage'])
  stages.set(key, parts)
  return parts
}

/**
 * The stage's own parts; those of one that is built here are grey as long as they have no material.
 * @param ground of the sky, at a level, in place of the stage's whatever that wears
 */
export function composeStage<I>(
  stage: Scene['stage'],
  resources: Pick<Resources<I>, 'models' | 'materials'>,
  ground: ((level: number) => GroundOfSky<I> | null) | null = null,
): ComposedPart<I>[] {
  if (stage.kind === 'model') {
    const around = ground?.(UNDER_MODEL_M)
    return [...composeModelStage(stage, resources), ...(around ? [{ name: 'ground', ...around }] : [])]
  }
  return partsOfStage(stage).map(({ name, mesh }) => {
    const own = name === 'ground' ? ground?.(mesh.positions[1]) : null
    if (own) return { name, ...own }
    const given = stage.materials[name]
    const material = given && wear(given, resources)
    if (given && material) return { name, ...material, mesh: lay(mesh, true, given, material.material) }
    const grey = UNDECIDED[name] ?? UNDECIDED_WALL
    return {
      name,
      mesh,
      material: createMaterial(name, { baseColor: [grey, grey, grey], specularRoughness: 0.8 }),
      images: [],
    }
  })
}

/** The ground about one's own model lies a little lower: models have floors of their own. */
const UNDER_MODEL_M = -0.02

/** The ground of the sky that lights a shot, where it is wanted and there is one in it. */
export function skyGroundOf(
  { skies }: Pick<Scene, 'skies'>,
  { sky: id }: Pick<Shot, 'sky'>,
  resources: Pick<Resources, 'skies'>,
  clearSkyPx?: number,
): ((level: number) => GroundOfSky | null) | null {
  const sky = id === null ? undefined : skies[id]
  const map = sky?.groundFromM && mapOfSky(sky, resources.skies, clearSkyPx)
  return sky && map ? level => groundOfSky(map, level, sky.groundFromM!, sky.turnDeg) : null
}

function composeModelStage<I>(stage: ModelStage, resources: Pick<Resources<I>, 'models' | 'materials'>): ComposedPart<I>[] {
  return listStageParts(stage, resources.models).map(part => assignPart(part, wornOfModel(stage, part), resources))
}

/** Pieces that look the same are kept once and placed as often as they stand there. */
export function composePieces<I>(scene: Scene, resources: Pick<Resources<I>, 'models' | 'materials'>): Composed<I>[] {
  const alike = new Map<string, [string, Piece][]>()
  for (const [id, piece] of Object.entries(scene.pieces)) {
    if (isHidden(scene, piece)) continue
    const key = lookKey(piece)
    const known = alike.get(key)
    if (known) known.push([id, piece])
    else alike.set(key, [[id, piece]])
  }
  return [...alike].flatMap(([key, pieces]) => {
    const parts = composePiece(pieces[0][1], resources)
    if (!parts) return []
    return [{ key, parts, placements: pieces.map(([, p]) => placeOfPiece(p)), of: pieces.map(([piece]) => ({ piece })) }]
  })
}

type Looking = Pick<Piece, 'item' | 'materials' | 'scale'>
const lookKeys = new WeakMap<Looking, string>()

/** What a piece's look depends on: of two with the same key one is an instance of the other. */
export function lookKey(piece: Looking): string {
  let key = lookKeys.get(piece)
  if (key === undefined) {
    const { item, materials, scale } = piece
    key = JSON.stringify([item.inputKey, materials, Object.keys(materials).length > 0 ? scale : 1])
    lookKeys.set(piece, key)
  }
  return key
}

/** A piece in its own space with the materials that were put on it; null where its model is not there. */
export function composePiece<I>(
  { item, materials, scale }: Pick<Piece, 'item' | 'materials' | 'scale'>,
  resources: Pick<Resources<I>, 'models' | 'materials'>,
): ComposedPart<I>[] | null {
  const parts = resources.models.get(item.inputKey)
  if (!parts) return null
  return parts.map(part =>
    assignPart(part, Object.hasOwn(materials, part.name) ? materials[part.name] : undefined, resources, scale),
  )
}

/** A part with what was put on it, or with its own. */
function assignPart<I>(
  part: ResourcePart<I>,
  given: Assignment | undefined,
  resources: Pick<Resources<I>, 'materials'>,
  scale = 1,
): ComposedPart<I> {
  const worn = given && wear(given, resources)
  return given && worn
    ? { name: part.name, ...worn, mesh: lay(part.mesh, part.hasUvs, given, worn.material, scale) }
    : toObject(part)
}

/** One for each species of each planting. */
export function composePlantings<I>(scene: Scene, resources: Resources<I>): Composed<I>[] {
  const keepOut = keepOutOf(scene, resources)
  return Object.entries(scene.plantings).flatMap(([id, planting]) => {
    if (planting.isHidden || (planting.group !== null && scene.groups[planting.group]?.isHidden)) return []
    return composePlants(id, planting, growPlanting(planting, keepOut, groundOf(scene, planting, resources)), resources)
  })
}

/** The ground of a planting where it is not level. */
export function groundOf(scene: Scene, planting: Planting, resources: Pick<Resources<unknown>, 'models'>): GroundAt | null {
  const meshes = meshesUnder(scene, planting, resources)
  return meshes.length > 0 ? createGround(meshes) : null
}

/** Around pieces that are shown: plants keep out of there. */
export const keepOutOf = (scene: Scene, resources: Pick<Resources<unknown>, 'models'>) =>
  Object.values(scene.pieces).flatMap(piece => {
    const parts = resources.models.get(piece.item.inputKey)
    return parts && !isHidden(scene, piece) ? [standingCircle(placeBox(placeOfPiece(piece), boundsOf(parts)))] : []
  })

/** Plants that have grown, by their species. */
export function composePlants<I>(
  id: string,
  planting: Planting,
  plants: readonly Plant[],
  resources: Pick<Resources<I>, 'models'>,
): Composed<I>[] {
  return planting.species.flatMap(({ item }, k) => {
    const parts = resources.models.get(item.inputKey)
    const own = plants.filter(p => p.species === k)
    if (!parts || own.length === 0) return []
    return [
      {
        key: `${id} ${k} ${item.inputKey}`,
        parts: parts.map(toObject),
        placements: own.map(p => affineOfTurn(p.position, p.turn, p.scale)),
        of: own.map(p => ({ planting: id, plant: p.index })),
      },
    ]
  })
}

const toObject = <I>({ name, mesh, material, images }: ResourcePart<I>): ComposedPart<I> => ({ name, mesh, material, images })

/** Of one mesh; what lies as it lay before is the same mesh, so that nobody builds anew what did not change. */
const laidOut = new WeakMap<Mesh, Map<string, Mesh>>()
const MOST_LAID_OUT = 24

function lay(mesh: Mesh, hasUvs: boolean, given: Assignment, { tiling, tileSizeM }: OpenPbrMaterial, scale = 1): Mesh {
  const { mapping, turnDeg, offsetM } = given
  const onceM = tiling === 'once' ? tileSizeM : null
  const known = laidOut.get(mesh) ?? new Map<string, Mesh>()
  laidOut.set(mesh, known)
  const key = JSON.stringify([hasUvs, mapping, turnDeg, offsetM, onceM, scale])
  let laid = known.get(key)
  if (!laid) {
    if (known.size >= MOST_LAID_OUT) known.clear()
    laid = layTexture(mesh, hasUvs, { mapping, turnDeg, offsetM, onceM }, scale)
    known.set(key, laid)
  }
  return laid
}

/** A material with what was adjusted here; null where it is not there. What is set here is the same all over: a map of it is let go. */
function wear<I>({ material: ref, override, shift }: Assignment, resources: Pick<Resources<I>, 'materials'>): Look<I> | null {
  const found = resources.materials.get(ref.inputKey)
  if (!found) return null
  const material = adjust(found.material, override, shift)
  return shift && isShifted(shift) ? { ...found, material, shift } : { ...found, material }
}

const adjusted = new WeakMap<OpenPbrMaterial, Map<string, OpenPbrMaterial>>()

/** The same adjustment of the same material is the same material. */
function adjust(material: OpenPbrMaterial, override: Assignment['override'], shift: MaterialShift = NO_SHIFT): OpenPbrMaterial {
  const names = Object.keys(override)
  if (names.length === 0 && !isShifted(shift)) return material
  const known = adjusted.get(material) ?? new Map<string, OpenPbrMaterial>()
  adjusted.set(material, known)
  const key = JSON.stringify([override, shift])
  const made = known.get(key)
  if (made) return made
  const textures = { ...material.textures }
  for (const name of names) delete textures[name as TextureSlot]
  const given = Object.fromEntries(
    Object.entries(override).filter(([name, value]) => Array.isArray(value) === isColorParameter(name)),
  )
  const next = shiftParameters({ ...material, textures, parameters: { ...material.parameters, ...given } }, shift)
  if (known.size >= MOST_LAID_OUT) known.clear()
  known.set(key, next)
  return next
}

/** Lamps as a shot is exposed: what lights from all around is so already. */
export const exposeLamps = (lamps: readonly Lamp[], { ev }: Pick<Shot, 'ev'>): Lamp[] =>
  lamps.map(lamp => ({ ...lamp, intensity: scale(lamp.intensity, 2 ** ev) }))

/**
 * Everything there is to draw: what stands once, and what is placed; and what lights it besides what is around.
 * @param shot from where it is looked at, and under which sky: of a room that is the side of it that stands between is left out, as in a section
 */
export function composeScene(
  scene: Scene,
  resources: Resources,
  shot?: Pick<Shot, 'position' | 'sky'>,
): { loose: ComposedPart[]; placed: Composed[]; lamps: Lamp[] } {
  const stage = composeStage(scene.stage, resources, shot && skyGroundOf(scene, shot, resources))
  const placed = [...composePieces(scene, resources), ...composePlantings(scene, resources)]
  return {
    loose: (shot ? stage.filter(part => !standsBetween(scene.stage, part.name, shot.position)) : stage).map(bakeShift),
    placed: [
      ...placed.map(thing => ({ ...thing, parts: thing.parts.map(bakeShift) })),
      ...composeLights<ByteImage>(scene, resources.webs),
    ],
    lamps: [...lampsOfLights(scene, resources.webs), ...lampsOfGlowing(placed)],
  }
}

/** Whether a side of a room is looked at from outside. */
export function standsBetween(stage: Scene['stage'], part: string, [x, y, z]: Vec3): boolean {
  if (stage.kind !== 'room') return false
  const outside: Record<string, boolean> = {
    'wall west': x < -stage.widthM / 2,
    'wall east': x > stage.widthM / 2,
    'wall north': z < -stage.depthM / 2,
    'wall south': z > stage.depthM / 2,
    ceiling: y > stage.heightM,
  }
  return outside[part] ?? false
}

export const toPlacedObjects = ({ parts, placements }: Composed): PlacedObjects => ({ objects: parts, placements })

/** What lights a shot: its sky where it has one that is there, else the house light; exposed as the house does, and by the shot. */
export function lightOfShot(
  scene: Pick<Scene, 'skies' | 'stage'>,
  shot: Pick<Shot, 'sky' | 'ev'>,
  resources: Resources,
): { light: EnvironmentLight; background: Backdrop | null } {
  const sky = shot.sky === null ? undefined : scene.skies[shot.sky]
  const map = sky && mapOfSky(sky, resources.skies)
  if (!sky || !map) return { light: createExposedLight(houseLightMap(), shot.ev + houseLightEv(scene.stage)), background: PLAIN }
  const light = lightOfSky(sky, map, shot.ev)
  return { light, background: backdropOfSky(sky, map, light) }
}

function backdropOfSky(sky: Sky, map: FloatImage, { gain }: EnvironmentLight): Backdrop | null {
  switch (sky.background) {
    case 'shown':
      return null
    case 'plain':
      return PLAIN
    case 'blurred':
      return new EnvironmentLight(blurredOf(map), gain, -toRadians(sky.turnDeg))
    default:
      return sky.background satisfies never
  }
}

const blurred = new WeakMap<FloatImage, FloatImage>()
function blurredOf(map: FloatImage): FloatImage {
  let made = blurred.get(map)
  if (!made) {
    made = blurMap(map, BLUR_DEG)
    blurred.set(map, made)
  }
  return made
}
/** As far as a lens that is open on something near lets a horizon run. */
const BLUR_DEG = 5

/** The house light is there to see things by: in a room it is as much brighter as less of it comes in. */
function houseLightEv(stage: Scene['stage']): number {
  const share = daylightShare(stage)
  return share > 0 ? Math.min(MOST_RAISED_EV, -Math.log2(share)) : 0
}
const MOST_RAISED_EV = 6

const PLAIN: [number, number, number] = [0.62, 0.62, 0.62]

export const lightOfSky = ({ turnDeg, ev }: Pick<Sky, 'turnDeg' | 'ev'>, map: FloatImage, shotEv: number): EnvironmentLight =>
  createExposedLight(map, ev + shotEv, -toRadians(turnDeg))
