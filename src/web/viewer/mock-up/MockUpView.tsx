import { Canvas, useThree } from '@react-three/fiber'
import { Component, memo, type ReactNode, useEffect, useLayoutEffect, useMemo, useState } from 'react'
import {
  type BufferGeometry,
  Color,
  type DataTexture,
  MeshStandardMaterial,
  NeutralToneMapping,
  type PerspectiveCamera,
  SphereGeometry,
} from 'three'
import type { Mesh } from '#core/geometry/mesh'
import { thinOut } from '#core/geometry/thin-out'
import type { FloatImage } from '#core/image/image'
import { type Affine, multiplyAffine } from '#core/math/affine'
import { toRadians } from '#core/math/angles'
import type { Vec3 } from '#core/math/vec3'
import type { Lens } from '#core/mock-up/composing/look-through'
import { cameraOfShot, shiftOf } from '#core/mock-up/composing/shot-camera'
import type { Sky } from '#core/mock-up/scene/scene'
import type { Composed, ComposedPart } from '#core/mock-up/things/composed'
import { boundsOf } from '#core/mock-up/things/resources'
import { createHouseLightMap } from '#core/render/lights/house-light'
import { toBufferGeometry } from '../core-geometry'
import { createEnvironmentTexture, exposureGain } from '../environment-texture'
import { drawsOnProcessor } from '../on-processor'
import { useResolution } from '../use-resolution'
import { ContactShadows } from './ContactShadows'
import { Instances } from './Instances'
import { LampLights, type ShownLights } from './LampLights'
import { planTriangles, type Share, THIN_TRIANGLES, triangleBudget, trianglesOf } from './plan-triangles'
import { SunLight } from './SunLight'
import { isGlass, toThreeMaterial } from './three-material'
import { type LitSky, useLitSky } from './use-lit-sky'

export interface ViewLight {
  /** Null for the house light. */
  map: FloatImage | null
  turnDeg: number
  ev: number
  /** Of it that comes to where things stand. */
  share: number
  background: Sky['background']
}

interface Props {
  stage: readonly ComposedPart<ImageBitmap>[]
  placed: readonly Composed<ImageBitmap>[]
  /** Pieces that stand on something. */
  standing: ReadonlySet<string>
  light: ViewLight
  lens: Lens
  lights: ShownLights
  /** Of the sun; a processor without a card takes half as long again over them. */
  drawsShadows: boolean
  /** Whether all that it shows has come. */
  isWhole: boolean
}

/** A mock-up in three dimensions, by the light and display transform of its renderings; what it shows beyond a budget are stand-ins. */
function MockUpView(props: Props) {
  const { dpr, watch } = useResolution()
  // Where a processor draws, a first picture without materials costs as many seconds as the one with them.
  const [hasBegun, setBegun] = useState(!drawsOnProcessor())
  const sky = useLitSky(props.light.map)
  if (props.isWhole && sky.map === props.light.map && !hasBegun) setBegun(true)
  return (
    <ViewBoundary>
      <Canvas
        gl={{ toneMapping: NeutralToneMapping, antialias: !drawsOnProcessor(), preserveDrawingBuffer: true }}
        dpr={dpr}
        frameloop="demand"
        shadows="percentage"
        onCreated={({ gl }) => {
          // Looking round changes no shadow.
          gl.shadowMap.autoUpdate = false
        }}
      >
        {hasBegun && (
          <>
            {watch}
            <LensCamera lens={props.lens} />
            <SkyLight {...props.light} sky={sky} stage={props.stage} placed={props.placed} drawsShadows={props.drawsShadows} />
            <LampLights {...props.lights} />
            <Content stage={props.stage} placed={props.placed} />
            <ContactShadows placed={props.placed} standing={props.standing} />
          </>
        )}
      </Canvas>
    </ViewBoundary>
  )
}

/** Drawn anew only when something that it shows has changed: what is pointed at or chosen lies over it. */
export default memo(MockUpView)

function LensCamera({ lens }: { lens: Lens }) {
  const { camera, invalidate } = useThree()
  useLayoutEffect(() => {
    const three = camera as PerspectiveCamera & { manual?: boolean }
    // Its projection is the lens's alone: else the canvas puts its own in place of it whenever its size changes.
    three.manual = true
    const { position, tanHalfHeight: tan, aspect, forward } = cameraOfShot(lens)
    const shift = lens.isUpright ? shiftOf(lens) : 0
    const flat: Vec3 = lens.isUpright ? [forward[0], 0, forward[2]] : forward
    three.position.set(...position)
    three.up.set(0, 1, 0)
    three.lookAt(position[0] + flat[0], position[1] + flat[1], position[2] + flat[2])
    const reach = Math.hypot(...lens.position.map((v, k) => v - lens.target[k]))
    const [near, far] = [Math.max(0.01, reach / 300), Math.max(200, reach * 60)]
    three.projectionMatrix.makePerspective(
      -near * tan * aspect,
      near * tan * aspect,
      near * (tan + shift),
      near * (shift - tan),
      near,
      far,
    )
    three.projectionMatrixInverse.copy(three.projectionMatrix).invert()
    three.updateMatrixWorld()
    invalidate()
  }, [camera, lens, invalidate])
  return null
}

let house: FloatImage | null = null
const houseLight = (): FloatImage => {
  house ??= createHouseLightMap(512)
  return house
}
/** Of the live view's own kind of blur, what is about as far as a rendering's. */
const BLURRINESS = 0.12
const PLAIN = new Color(0.62, 0.62, 0.62)

/** A sky as it lights: its sun, where it has one, with the shadows that it throws, and the rest from all around. */
function SkyLight({
  sky: { map, split: found },
  turnDeg,
  ev,
  share,
  background,
  stage,
  placed,
  drawsShadows,
}: Omit<ViewLight, 'map'> & { sky: LitSky } & Pick<Props, 'stage' | 'placed' | 'drawsShadows'>) {
  const isShown = background !== 'plain'
  const { scene, invalidate } = useThree()
  const split = drawsShadows ? found : null
  const source = map ?? houseLight()
  const shown = useEnvironmentTexture(isShown ? source : null, source.width)
  const whole = useEnvironmentTexture(source, lightPx())
  const rest = useEnvironmentTexture(split?.rest ?? null, lightPx())
  const gain = useMemo(() => exposureGain(source, 0), [source])
  useEffect(() => {
    // Within walls the sun's own light goes about too: what comes from all around there is of the whole sky.
    scene.environment = share < 1 ? whole : (rest ?? whole)
    scene.background = shown ?? PLAIN
    scene.environmentIntensity = gain * 2 ** ev * share
    scene.backgroundBlurriness = background === 'blurred' ? BLURRINESS : 0
    scene.backgroundIntensity = isShown ? gain * 2 ** ev : 1
    scene.environmentRotation.set(0, toRadians(turnDeg), 0)
    scene.backgroundRotation.set(0, toRadians(turnDeg), 0)
    invalidate()
  })
  return drawsShadows && <SunLight sun={split} turnDeg={turnDeg} gain={gain * 2 ** ev} stage={stage} placed={placed} />
}

/** All lights are of one size: another would have every material made anew. A processor takes seconds for more. */
const lightPx = (): number => (drawsOnProcessor() ? 512 : 1024)

function useEnvironmentTexture(map: FloatImage | null, width: number): DataTexture | null {
  const texture = useMemo(() => map && createEnvironmentTexture(map, width), [map, width])
  useEffect(() => () => texture?.dispose(), [texture])
  return texture
}

function Content({ stage, placed }: Pick<Props, 'stage' | 'placed'>) {
  const invalidate = useThree(s => s.invalidate)
  const { shares } = useMemo(() => planTriangles(placed, triangleBudget()), [placed])
  useEffect(() => invalidate())
  return (
    <>
      {stage.map(part => (
        <mesh
          key={part.name}
          geometry={geometryOf(part)}
          material={toThreeMaterial(part, true)}
          castShadow={!isGlass(part.material)}
          receiveShadow
        />
      ))}
      {placed.map(thing => (
        <Thing key={thing.key} thing={thing} {...shares.get(thing)!} />
      ))}
    </>
  )
}

function Thing({ thing, full, thin }: { thing: Composed<ImageBitmap> } & Share) {
  const { parts, placements } = thing
  const [inFull, thinned, left] = useMemo(
    () =>
      full === placements.length
        ? [placements, [], []]
        : [placements.slice(0, full), placements.slice(full, full + thin), placements.slice(full + thin)],
    [placements, full, thin],
  )
  const whole = trianglesOf(thing)
  return (
    <group>
      {parts.map((part, k) => (
        <Instances
          key={k}
          geometry={geometryOf(part)}
          material={toThreeMaterial(part, false)}
          placements={inFull}
          throwsShadow={!isGlass(part.material)}
        />
      ))}
      {thinned.length > 0 &&
        parts.map((part, k) => (
          <Instances
            key={k}
            geometry={geometryOf({ ...part, mesh: thinMesh(part.mesh, THIN_TRIANGLES / whole) })}
            material={toThreeMaterial(part, false)}
            placements={thinned}
            throwsShadow={!isGlass(part.material)}
          />
        ))}
      {left.length > 0 && <StandIns thing={thing} placements={left} />}
    </group>
  )
}

const thinMeshes = new WeakMap<Mesh, Mesh>()
function thinMesh(mesh: Mesh, share: number): Mesh {
  let thin = thinMeshes.get(mesh)
  if (!thin) {
    thin = thinOut(mesh, Math.max(2, (mesh.indices.length / 3) * share))
    thinMeshes.set(mesh, thin)
  }
  return thin
}

const geometries = new WeakMap<Mesh, Map<string, BufferGeometry>>()
function geometryOf({ mesh, material }: ComposedPart<ImageBitmap>): BufferGeometry {
  const known = geometries.get(mesh) ?? new Map<string, BufferGeometry>()
  geometries.set(mesh, known)
  const key = String(material.tileSizeM)
  let geometry = known.get(key)
  if (!geometry) {
    geometry = toBufferGeometry(mesh, material.tileSizeM ?? [1, 1])
    known.set(key, geometry)
  }
  return geometry
}

const STAND_IN = new SphereGeometry(0.5, 7, 5)

/** In the place of what is beyond the budget: as large, of the colour of what there is most of. */
function StandIns({ thing: { parts }, placements }: { thing: Composed<ImageBitmap>; placements: readonly Affine[] }) {
  const material = useMemo(() => {
    const leaves = parts.find(p => p.material.textures.geometryOpacity !== undefined)
    return new MeshStandardMaterial({
      color: leaves ? LEAF_GREEN : new Color(...parts[0].material.parameters.baseColor),
      roughness: 1,
    })
  }, [parts])
  const placed = useMemo(() => {
    const box = boundsOf(parts)
    const size = [0, 1, 2].map(k => (box.max[k] - box.min[k]) * 0.8)
    const middle = [0, 1, 2].map(k => (box.max[k] + box.min[k]) / 2)
    const inBox: Affine = [size[0], 0, 0, middle[0], 0, size[1], 0, middle[1], 0, 0, size[2], middle[2]]
    return placements.map(to => multiplyAffine(to, inBox))
  }, [parts, placements])
  return <Instances geometry={STAND_IN} material={material} placements={placed} throwsShadow />
}
const LEAF_GREEN = new Color(0.09, 0.13, 0.06)

class ViewBoundary extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false }
  static getDerivedStateFromError = () => ({ failed: true })
  override render() {
    return this.state.failed ? (
      <p role="alert" className="flex h-full items-center justify-center bg-mount px-8 text-center">
        The live view could not be drawn: the browser has no WebGL 2. The mock-up is not affected, and its shots can be rendered.
      </p>
    ) : (
      this.props.children
    )
  }
}
