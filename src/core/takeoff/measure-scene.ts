import { boundaryLengthM } from '../geometry/boundary-length'
import type { Mesh } from '../geometry/mesh'
import type { Affine } from '../math/affine'
import { IDENTITY } from '../math/affine'
import { keepOutOf } from '../mock-up/composing/compose'
import { buildStage } from '../mock-up/composing/stage-parts'
import { finishTypes } from '../mock-up/materials/part-types'
import { placeOfPiece } from '../mock-up/placing/placing'
import { growPlanting } from '../mock-up/planting/grow-planting'
import { isHidden } from '../mock-up/scene/pieces'
import type { Assignment, ItemRef, Scene } from '../mock-up/scene/scene'
import { listStageParts, wornOfModel } from '../mock-up/stage-model/stage-of-model'
import type { ResourcePart } from '../mock-up/things/resources'

/** Where a material is used: on which part of what. */
export interface Place {
  /** A piece by its name, or the stage. */
  of: string
  part: string
  /** Of a piece: the group it is in. */
  group: string | null
  /** The type whose finish it is here; null where it counts by the surface. A part counts by one of the two. */
  type: string | null
  /** How often it stands there so. */
  count: number
  areaM2: number
  edgeM: number
}

export interface MaterialAmount {
  /** Null for what a model came with. */
  ref: ItemRef | null
  name: string
  areaM2: number
  /** Length of the open edges: where the surface ends. */
  edgeM: number
  places: Place[]
}

export interface CountedAmount {
  kind: 'piece' | 'plant' | 'light'
  ref: ItemRef
  name: string
  count: number
  /** Of pieces that are not as large as they are made. */
  scaled: number
  groups: string[]
}

export interface Takeoff {
  materials: MaterialAmount[]
  counted: CountedAmount[]
  /** Models that are not there to be measured: codes of items, or the name of the stage's own. */
  missing: string[]
}

type Models = ReadonlyMap<string, readonly Pick<ResourcePart<never>, 'name' | 'mesh' | 'material'>[]>

/**
 * What a scene is made of, measured: the surface of every part at its true size by what it wears, and how many of everything stand there.
 * What is the finish of a type counts by the type, once, and is told apart from what was put on a surface alone. Hidden things are not counted, nor is the open ground about the stage; a room's openings are left out of its walls.
 * @param models of the scene's items, by the keys of their inputs, in metres
 */
export function measureScene(scene: Scene, models: Models): Takeoff {
  const materials = new Map<string, MaterialAmount>()
  const missing = new Set<string>()
  const add = (worn: Assignment | undefined, own: string, place: Omit<Place, 'count'>) => {
    const key = worn ? worn.material.code : `own ${own}`
    const amount = materials.get(key) ?? { ref: worn?.material ?? null, name: own, areaM2: 0, edgeM: 0, places: [] }
    materials.set(key, amount)
    amount.areaM2 += place.areaM2
    amount.edgeM += place.edgeM
    const same = amount.places.find(
      p => p.of === place.of && p.part === place.part && p.group === place.group && p.type === place.type,
    )
    if (!same) amount.places.push({ ...place, count: 1 })
    else {
      same.count++
      same.areaM2 += place.areaM2
      same.edgeM += place.edgeM
    }
  }
  const { stage } = scene
  const typeOf = finishTypes(scene)
  if (stage.kind === 'model') {
    if (!models.has(stage.model.key)) missing.add(stage.model.name)
    for (const part of listStageParts(stage, models)) {
      const worn = wornOfModel(stage, part)
      const type = typeOf({ piece: null, part: part.name }, worn)
      add(worn, part.material.name, { of: 'Stage', part: part.name, group: null, type, ...measure(part.mesh, IDENTITY) })
    }
  }
  for (const { name, mesh } of buildStage(stage)) {
    if (name === 'ground') continue
    const worn = stage.materials[name]
    // A slab lies on something: what is underneath is no finish.
    const isFinish = name === 'ceiling' ? undefined : isNotUnderneath
    const type = typeOf({ piece: null, part: name }, worn)
    add(worn, 'Nothing chosen yet', { of: 'Stage', part: name, group: null, type, ...measure(mesh, IDENTITY, isFinish) })
  }
  const counted = new Map<string, CountedAmount>()
  const count = (
    kind: CountedAmount['kind'],
    ref: ItemRef,
    name: string,
    more: number,
    isScaled: boolean,
    group: string | null,
  ) => {
    const key = `${kind} ${ref.code}`
    const amount = counted.get(key) ?? { kind, ref, name, count: 0, scaled: 0, groups: [] }
    counted.set(key, amount)
    amount.count += more
    if (isScaled) amount.scaled += more
    const title = group === null ? null : scene.groups[group]?.name
    if (title && !amount.groups.includes(title)) amount.groups.push(title)
  }
  for (const [id, piece] of Object.entries(scene.pieces)) {
    if (isHidden(scene, piece)) continue
    count('piece', piece.item, piece.name, 1, Math.abs(piece.scale - 1) > 1e-6, piece.group)
    const parts = models.get(piece.item.inputKey)
    if (!parts) {
      missing.add(piece.item.code)
      continue
    }
    const group = piece.group === null ? null : (scene.groups[piece.group]?.name ?? null)
    for (const { name, mesh, material } of parts) {
      const worn = piece.materials[name]
      const type = typeOf({ piece: id, part: name }, worn)
      add(worn, material.name, { of: piece.name, part: name, group, type, ...measure(mesh, placeOfPiece(piece)) })
    }
  }
  const keepOut = keepOutOf(scene, { models: models as never })
  for (const planting of Object.values(scene.plantings)) {
    if (planting.isHidden || (planting.group !== null && scene.groups[planting.group]?.isHidden)) continue
    const plants = growPlanting(planting, keepOut)
    planting.species.forEach(({ item, name }, k) => {
      const own = plants.filter(p => p.species === k).length
      if (own > 0) count('plant', item, name, own, false, planting.group)
    })
  }
  for (const light of Object.values(scene.lights))
    if (light.item && !light.isHidden) count('light', light.item, light.name, 1, false, light.group)
  return {
    materials: [...materials.values()].sort((a, b) => b.areaM2 - a.areaM2),
    counted: [...counted.values()].sort((a, b) => (a.ref.code < b.ref.code ? -1 : 1)),
    missing: [...missing],
  }
}

const isNotUnderneath = (normalY: number): boolean => normalY > -0.5

/**
 * Surface of the triangles of a mesh where it is placed, m²; mirrored and unevenly scaled placements count as they are. And the length of
 * its open edges, m.
 * @param counts of a face's unit normal, upwards, whether it counts
 */
function measure(mesh: Mesh, to: Affine, counts: (normalY: number) => boolean = () => true): Pick<Place, 'areaM2' | 'edgeM'> {
  const { positions: p, indices } = mesh
  const at = (i: number): [number, number, number] => {
    const [x, y, z] = [p[i * 3], p[i * 3 + 1], p[i * 3 + 2]]
    return [0, 4, 8].map(k => to[k] * x + to[k + 1] * y + to[k + 2] * z + to[k + 3]) as [number, number, number]
  }
  let areaM2 = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [at(indices[i]), at(indices[i + 1]), at(indices[i + 2])]
    const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const [vx, vy, vz] = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
    const twice = Math.hypot(nx, ny, nz)
    if (twice > 0 && counts(ny / twice)) areaM2 += twice / 2
  }
  return { areaM2, edgeM: boundaryLengthM(mesh, at) }
}
