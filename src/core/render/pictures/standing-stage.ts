import { computeBounds, mergeMeshes } from '../../geometry/mesh'
import type { OpenPbrMaterial } from '../../material/open-pbr'
import { affineOf, IDENTITY, multiplyAffine } from '../../math/affine'
import type { Vec3 } from '../../math/vec3'
import { type Camera, NO_ORBIT, type Orbit, orbitCamera, pivotBeside } from '../film/camera'
import { Rendering, type RenderSettings } from '../integrator/render'
import { lightOfRig } from '../lights/house-light'
import type { Rig } from '../rigs/rig'
import { createScene, type MipCache, placeElsewhere, type Scene, type SceneObject, withMaterials } from '../scene/scene'
import { type StageableSubject, stageSubject } from '../stages/stage-subject'
import { createBackdrop } from '../stages/surroundings'

/** A relief is as fine as shows in a view of this height. */
const FINE_AS_PX = 384

/** What changes while somebody looks. */
export interface Look {
  /** Of a material: in place of the one that was staged. */
  material?: OpenPbrMaterial
  orbit?: Orbit
}

/**
 * A subject that stays on its rig while it is gone round and its material is changed: meshes, tree and pictures are made ready once, and
 * what is seen without a turn is what the rig's preview shows.
 */
export class StandingStage {
  /** Where the rig's camera stands; about the pivot it is gone round. */
  readonly camera: Camera
  readonly pivot: Vec3
  private readonly light
  private readonly objects: readonly SceneObject[]
  private readonly backdrop: SceneObject
  private readonly floorCentre: Vec3
  private readonly lamps
  private scene: Scene

  constructor(
    private readonly subject: StageableSubject,
    rig: Rig,
    backdropAlbedo: number,
    private readonly mipCache: MipCache = new Map(),
  ) {
    const staged = stageSubject(subject, rig, FINE_AS_PX)
    this.objects = [...staged.subject, ...staged.extras]
    this.camera = staged.camera
    this.lamps = staged.lamps
    this.light = lightOfRig(rig)
    const around = mergeMeshes(this.objects.map(o => o.mesh))
    const { min, max } = computeBounds(around.positions)
    this.floorCentre = [(min[0] + max[0]) / 2, 0, (min[2] + max[2]) / 2]
    this.pivot = pivotBeside(staged.camera, middleOf(mergeMeshes(staged.subject.map(o => o.mesh)).positions))
    this.backdrop = createBackdrop(around, staged.camera, backdropAlbedo, staged.backdrop)
    this.scene = this.build(this.objects)
  }

  /**
   * @param part as of {@link Rendering}
   * @returns a rendering that ends when the next one starts: both work in the same memory
   */
  start(settings: RenderSettings, { material, orbit = NO_ORBIT }: Look, part?: { index: number; count: number }): Rendering {
    if (material && this.subject.kind === 'material') this.wear(material)
    this.putBackdropBehind(orbit.yawRad)
    const camera = orbitCamera(this.camera, this.pivot, orbit)
    return new Rendering(this.scene, this.light, camera, settings, part, null, { judgesItself: false })
  }

  private wear(material: OpenPbrMaterial): void {
    const { subject } = this
    if (subject.kind !== 'material') return
    const objects = this.objects.map(o => (o.material === subject.material ? { ...o, material } : o))
    this.scene = withMaterials(this.scene, [...objects, this.backdrop], this.mipCache) ?? this.build(objects)
  }

  private build(objects: readonly SceneObject[]): Scene {
    const shapes = [objects, [this.backdrop]].map(list => ({ objects: list, placements: [IDENTITY] }))
    return createScene([], this.mipCache, this.lamps, shapes)
  }

  /** The backdrop stays behind the subject, whoever looks from where. */
  private putBackdropBehind(yawRad: number): void {
    const { floorCentre, scene } = this
    const about = multiplyAffine(affineOf(floorCentre, yawRad), affineOf([-floorCentre[0], 0, -floorCentre[2]]))
    const placements = [IDENTITY, yawRad === 0 ? IDENTITY : about].map((toWorld, shape) => ({ shape, toWorld }))
    placeElsewhere(scene, placements)
  }
}

function middleOf(positions: Float32Array): Vec3 {
  const { min, max } = computeBounds(positions)
  return [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
}
