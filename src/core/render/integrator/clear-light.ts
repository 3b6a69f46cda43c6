import type { OpenPbrParameters } from '../../material/open-pbr'
import { createRayHit } from '../scene/ray-caster'
import type { Scene } from '../scene/scene'
import { fresnelDielectric, iorOfWeight } from '../surface/fresnel'

const MOST_SURFACES = 32

/**
 * Light that goes straight through what is clear, on its way to or from something diffuse: unbent, so that it is found at all, but less
 * what each surface reflects, by Fresnel at the angle outside, and what the medium absorbs over the distances at which the ray leaves it,
 * less those at which it enters. What is reflected or bent aside is lost instead of gathered into caustics: less light arrives than in
 * truth, never more.
 */
export class ClearLight {
  /** What gets through, by colour; written by `trace`. */
  readonly tint = new Float64Array(3)
  private readonly hit = createRayHit()
  /** What the media take off, as logarithms. */
  private readonly absorbed = new Float64Array(3)

  constructor(private readonly scene: Scene) {}

  /** Along a ray of unit direction, up to `far`. */
  trace(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): void {
    const { scene, tint, hit, absorbed } = this
    tint.fill(1)
    absorbed.fill(0)
    if (!scene.caster.hasTinted) return
    const step = 4e-6 * Math.max(1, Math.abs(ox), Math.abs(oy), Math.abs(oz))
    let from = 0
    for (let i = 0; i < MOST_SURFACES; i++) {
      if (!scene.caster.closestHit(ox + dx * from, oy + dy * from, oz + dz * from, dx, dy, dz, far - from, hit, 'tinted')) break
      const at = from + hit.distance
      const cos = this.cosineAt(hit.triangle, hit.placement, dx, dy, dz)
      this.pass(scene.materials[scene.materialOf[hit.triangle]].source.parameters, cos, at)
      from = at + step
      if (!(from < far)) break
    }
    for (let k = 0; k < 3; k++) tint[k] *= Math.exp(-Math.max(0, absorbed[k]))
  }

  private pass(p: OpenPbrParameters, cos: number, at: number): void {
    const { tint, absorbed } = this
    const ior = p.specularIor > 1 ? Math.min(p.specularIor, 4) : 1.0001
    const f = fresnelDielectric(cos, iorOfWeight(ior, Math.min(1, p.specularWeight)))
    const passed = (p.geometryThinWalled ? 1 - (2 * f) / (1 + f) : 1 - f) * Math.min(1, p.transmissionWeight)
    for (let k = 0; k < 3; k++) {
      const color = p.transmissionColor[k]
      tint[k] *= passed
      if (p.geometryThinWalled || !(p.transmissionDepth > 0)) tint[k] *= color
      else absorbed[k] -= (Math.log(Math.max(color, 1e-4)) / p.transmissionDepth) * (cos > 0 ? at : -at)
    }
  }

  /** Cosine between a direction and a triangle's outward side, which its normals tell. */
  private cosineAt(triangle: number, placement: number, dx: number, dy: number, dz: number): number {
    const { positions, normals } = this.scene
    const direction = [dx, dy, dz]
    if (placement >= 0) {
      const back = this.scene.backOf[placement]
      for (let k = 0; k < 3; k++) direction[k] = back[k * 4] * dx + back[k * 4 + 1] * dy + back[k * 4 + 2] * dz
    }
    const p = triangle * 9
    const edge = (corner: number, k: number) => positions[p + corner * 3 + k] - positions[p + k]
    const side = [0, 1, 2].map(k => {
      const [i, j] = [(k + 1) % 3, (k + 2) % 3]
      return edge(1, i) * edge(2, j) - edge(1, j) * edge(2, i)
    })
    const area = Math.hypot(...side)
    if (!(area > 0)) return 1
    const outwards = side.reduce((sum, s, k) => sum + s * (normals[p + k] + normals[p + 3 + k] + normals[p + 6 + k]), 0)
    const along = direction.reduce((sum, d, k) => sum + d * side[k], 0)
    return ((outwards < 0 ? -1 : 1) * along) / (area * Math.hypot(...direction))
  }
}
