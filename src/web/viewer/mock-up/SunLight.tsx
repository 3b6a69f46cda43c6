import { useThree } from '@react-three/fiber'
import { useLayoutEffect, useMemo, useRef } from 'react'
import { type DirectionalLight, MeshBasicMaterial, Quaternion, Vector3 } from 'three'
import type { SplitKey } from '#core/environment/soften-key'
import type { Affine } from '#core/math/affine'
import { toRadians } from '#core/math/angles'
import { length, type Vec3 } from '#core/math/vec3'
import { placeBox } from '#core/mock-up/placing/placing'
import { around, type Box } from '#core/mock-up/placing/snapping'
import type { Composed, ComposedPart } from '#core/mock-up/things/composed'
import { boundsOf } from '#core/mock-up/things/resources'

const SHADOW_PX = 2048
/** Farther from the middle nothing throws a shadow: its pixels would be as large as a hand. */
const FARTHEST_M = 80
/** A ground goes on beyond all that stands on it, and throws no shadow. */
const GROUNDS: ReadonlySet<string> = new Set(['ground'])

interface Props {
  /** Null of a sky without one: the light is there and dark, since every material is made anew for another number of lights. */
  sun: SplitKey | null
  turnDeg: number
  /** Of radiance of the map to what is drawn. */
  gain: number
  stage: readonly ComposedPart<ImageBitmap>[]
  placed: readonly Composed<ImageBitmap>[]
}

/** The sun of a sky as a light with shadows, drawn anew only when it moves or something that throws one does. */
export function SunLight({ sun, turnDeg, gain, stage, placed }: Props) {
  const light = useRef<DirectionalLight>(null)
  const { gl, invalidate } = useThree()
  const { middle, radius } = useMemo(() => castersOf(stage, placed), [stage, placed])
  useLayoutEffect(() => {
    const { current } = light
    if (!current) return
    gl.shadowMap.needsUpdate = sun !== null
    invalidate()
    if (!sun) {
      current.intensity = 0
      return
    }
    const direction = new Vector3(...sun.direction).applyQuaternion(turnAbout(turnDeg))
    current.target.position.set(...middle)
    current.target.updateMatrixWorld()
    current.position.set(...middle).addScaledVector(direction, 2 * radius)
    const brightest = Math.max(...sun.irradiance)
    current.color.setRGB(...(sun.irradiance.map(v => v / brightest) as [number, number, number]))
    current.intensity = brightest * gain
    const { camera } = current.shadow
    Object.assign(camera, { left: -radius, right: radius, bottom: -radius, top: radius, near: radius * 0.5, far: radius * 3.5 })
    camera.updateProjectionMatrix()
    // A pixel of the shadow's picture, in metres: nearer than that a surface throws none onto itself.
    const pixel = (2 * radius) / SHADOW_PX
    current.shadow.normalBias = pixel * 1.5
    current.shadow.bias = -1 / SHADOW_PX
    current.shadow.radius = 1 + toRadians(sun.angularDiameterDeg) * 20
  })
  const roof = useMemo(() => roofOver(stage), [stage])
  return (
    <>
      <directionalLight ref={light} castShadow shadow-mapSize={[SHADOW_PX, SHADOW_PX]} />
      {roof && (
        <mesh position={roof.middle} scale={roof.size} material={UNSEEN} castShadow>
          <boxGeometry />
        </mesh>
      )}
    </>
  )
}

/** Throws shadows and is not seen itself. */
const UNSEEN = new MeshBasicMaterial({ colorWrite: false, depthWrite: false })
/** As thick as walls are: a ceiling that ends where the room does would let light in along its edge. */
const WALL_M = 0.24

function roofOver(stage: Props['stage']): { middle: Vec3; size: Vec3 } | null {
  const ceiling = stage.find(part => part.name === 'ceiling')
  if (!ceiling) return null
  const { min, max } = boundsOf([ceiling])
  return {
    middle: [(min[0] + max[0]) / 2, max[1] + WALL_M / 2 + 0.01, (min[2] + max[2]) / 2],
    size: [max[0] - min[0] + 2 * WALL_M, WALL_M, max[2] - min[2] + 2 * WALL_M],
  }
}

const UP = new Vector3(0, 1, 0)
const turnAbout = (degrees: number): Quaternion => new Quaternion().setFromAxisAngle(UP, toRadians(degrees))

const known = new WeakMap<readonly Affine[], Box>()
/** Around all placements of a thing; thousands of plants stay where they are while something else is moved. */
function boxOfAll({ parts, placements }: Composed<ImageBitmap>): Box {
  let box = known.get(placements)
  if (!box) {
    const own = boundsOf(parts)
    box = around(placements.map(to => placeBox(to, own)))
    known.set(placements, box)
  }
  return box
}

/** A ball around what throws shadows. */
function castersOf(stage: Props['stage'], placed: Props['placed']): { middle: Vec3; radius: number } {
  const boxes: Box[] = stage.filter(part => !GROUNDS.has(part.name)).map(part => boundsOf([part]))
  for (const thing of placed) if (thing.placements.length > 0) boxes.push(boxOfAll(thing))
  if (boxes.length === 0) return { middle: [0, 0, 0], radius: 1 }
  const { min, max } = around(boxes)
  const middle: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
  const half: Vec3 = [(max[0] - min[0]) / 2, (max[1] - min[1]) / 2, (max[2] - min[2]) / 2]
  return { middle, radius: Math.min(FARTHEST_M, Math.max(0.5, length(half))) }
}
