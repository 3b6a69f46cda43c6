import { OrbitControls, useGLTF } from '@react-three/drei'
import { Canvas, useThree } from '@react-three/fiber'
import { Component, type ReactNode, Suspense, use, useCallback, useEffect, useMemo } from 'react'
import { Box3, type MeshPhysicalMaterial, NeutralToneMapping, PerspectiveCamera, Vector3 } from 'three'
import { sourceOfBytes } from '#core/codecs/byte-source'
import { openExr } from '#core/codecs/exr'
import { openHdr } from '#core/codecs/hdr'
import { computeBounds, type Mesh } from '#core/geometry/mesh'
import { createSphere } from '#core/geometry/shapes'
import type { FloatImage } from '#core/image/image'
import { collectRows } from '#core/image/picture-rows'
import { reduceRows } from '#core/image/row-reducer'
import { add, dot, scale, subtract, type Vec3 } from '#core/math/vec3'
import { type Camera, createCamera, frameSubject } from '#core/render/film/camera'
import { createHouseLightMap } from '#core/render/lights/house-light'
import { PREVIEW_ASPECT, type Rig } from '#core/render/rigs/rig'
import { directionToCamera } from '#core/render/stages/stage-subject'
import { createMaterialStage } from '#core/render/stages/stages'
import { createBackdrop } from '#core/render/stages/surroundings'
import type { Sheet } from '#shared/contracts/items.contract'
import { toBufferGeometry } from './core-geometry'
import { createEnvironmentTexture, exposureGain } from './environment-texture'
import { GroundShadow, trianglesOf } from './GroundShadow'
import { loadSheetMaterial } from './material-from-sheet'

/** The item in three dimensions, on the rig of its category: same light, camera and display transform as its preview. */
export default function LiveView({ sheet }: { sheet: Sheet }) {
  const { rig } = sheet
  return (
    <LiveBoundary key={sheet.version.id}>
      <Canvas
        gl={{ toneMapping: NeutralToneMapping, antialias: true, preserveDrawingBuffer: true }}
        dpr={[1, 2]}
        frameloop="demand"
      >
        <Suspense fallback={null}>
          <Content sheet={sheet} rig={rig} />
        </Suspense>
      </Canvas>
    </LiveBoundary>
  )
}

function Content({ sheet, rig }: { sheet: Sheet; rig: Rig }) {
  switch (sheet.kind) {
    case 'material':
      return <MaterialContent sheet={sheet} rig={rig} />
    case 'model':
      return <ModelContent sheet={sheet} rig={rig} />
    case 'environment':
      return <EnvironmentContent sheet={sheet} rig={rig} />
    case 'light':
      // What a luminaire throws is drawn as its curve.
      return null
    default:
      return sheet.kind satisfies never
  }
}

const houseLight = (() => {
  let map: FloatImage | null = null
  return () => {
    map ??= createHouseLightMap(256)
    return map
  }
})()

/** Lights the scene by a map, exposed as the rig says; shows it behind everything where asked. */
function Light({ map, rig, visible = false }: { map: FloatImage; rig: Rig; visible?: boolean }) {
  const { scene, invalidate } = useThree()
  useEffect(() => {
    const texture = createEnvironmentTexture(map)
    // A rig that shows a light is dim, for the light to tell; here it does not shine.
    const gain = exposureGain(map, rig.stage === 'wallWash' ? 0 : rig.exposureEv)
    scene.environment = texture
    scene.environmentIntensity = gain
    scene.background = visible ? texture : null
    scene.backgroundIntensity = gain
    invalidate()
    return () => {
      scene.environment = null
      scene.background = null
      texture.dispose()
    }
  }, [map, rig, visible, scene, invalidate])
  return null
}

/** Stands where the rig's camera stands, and turns about the middle of the subject. */
function RigCamera({ view, centre, reach }: { view: Camera; centre: [number, number, number]; reach: number }) {
  const { camera, size, invalidate } = useThree()
  useEffect(() => {
    if (!(camera instanceof PerspectiveCamera)) return
    camera.position.set(...view.position)
    camera.fov = (2 * Math.atan(view.tanHalfHeight) * 180) / Math.PI
    camera.near = reach / 200
    camera.far = reach * 400
    camera.aspect = size.width / size.height
    camera.updateProjectionMatrix()
    invalidate()
  }, [camera, view, reach, size, invalidate])
  return <OrbitControls makeDefault target={centre} minDistance={reach * 0.3} maxDistance={reach * 12} enableDamping={false} />
}

interface StageProps {
  subject: Mesh
  /** Its triangles, for the shadow. */
  casters: () => Float32Array<ArrayBuffer>
  rig: Rig
  children: ReactNode
}

function Stage({ subject, casters, rig, children }: StageProps) {
  const { view, centre, reach, backdrop, ground } = useMemo(() => {
    const camera = frameSubject(
      subject.positions,
      directionToCamera(rig),
      rig.camera.focalMm,
      PREVIEW_ASPECT,
      rig.camera.coverage,
      rig.camera.framing,
    )
    const { min, max } = computeBounds(subject.positions)
    const middle: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
    // The point on the rig's line of sight beside the middle, so that turning starts from the rig's own picture.
    const away = dot(subtract(middle, camera.position), camera.forward)
    return {
      view: camera,
      centre: add(camera.position, scale(camera.forward, away)),
      reach: Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]),
      ground: {
        x: middle[0],
        y: min[1],
        z: middle[2],
        side: 2.4 * Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]),
      },
      backdrop: toBufferGeometry(createBackdrop(subject, camera, rig.backdrops[0]).mesh),
    }
  }, [subject, rig])
  return (
    <>
      <Light map={houseLight()} rig={rig} />
      <RigCamera view={view} centre={centre} reach={reach} />
      <mesh geometry={backdrop}>
        <meshStandardMaterial color={[rig.backdrops[0], rig.backdrops[0], rig.backdrops[0]]} roughness={0.9} side={2} />
      </mesh>
      <GroundShadow casters={casters} rig={rig} ground={ground} />
      {children}
    </>
  )
}

const toTriangles = ({ positions, indices }: Mesh): Float32Array<ArrayBuffer> =>
  Float32Array.from({ length: indices.length * 3 }, (_, i) => positions[indices[Math.floor(i / 3)] * 3 + (i % 3)])

/** Loading once for each version, so that React may ask as often as it likes. */
const materials = new Map<number, Promise<MeshPhysicalMaterial>>()
function sheetMaterial(sheet: Sheet): Promise<MeshPhysicalMaterial> {
  let loading = materials.get(sheet.version.id)
  if (!loading) {
    loading = loadSheetMaterial(sheet)
    materials.set(sheet.version.id, loading)
  }
  return loading
}

function MaterialContent({ sheet, rig }: { sheet: Sheet; rig: Rig }) {
  const material = use(sheetMaterial(sheet))
  const stage = useMemo(createMaterialStage, [])
  const casters = useCallback(() => toTriangles(stage), [stage])
  const heightMm = sheet.facts.find(f => f.name === 'heightMm')?.value
  const widthM = (sheet.widthMm ?? 1000) / 1000
  const heightM = typeof heightMm === 'number' ? heightMm / 1000 : widthM
  const geometry = useMemo(() => toBufferGeometry(stage, [widthM, heightM]), [stage, widthM, heightM])
  return (
    <Stage subject={stage} casters={casters} rig={rig}>
      <mesh geometry={geometry} material={material} />
    </Stage>
  )
}

function ModelContent({ sheet, rig }: { sheet: Sheet; rig: Rig }) {
  const file = sheet.files.find(f => f.role === 'model')
  const { scene } = useGLTF(file?.url ?? '', false, false)
  const casters = useCallback(() => trianglesOf(scene), [scene])
  const subject = useMemo((): Mesh => {
    const box = new Box3().setFromObject(scene)
    const corners = [0, 1, 2, 3, 4, 5, 6, 7].flatMap(i => {
      const v = new Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z)
      return [v.x, v.y, v.z]
    })
    return {
      positions: new Float32Array(corners),
      normals: new Float32Array(24),
      uvs: new Float32Array(16),
      indices: new Uint32Array(),
    }
  }, [scene])
  return (
    <Stage subject={subject} casters={casters} rig={rig}>
      <primitive object={scene} />
    </Stage>
  )
}

/** Past this width the live picture gains nothing and a small graphics card loses much. */
const LIVE_MAP_WIDTH = 2048
const maps = new Map<number, Promise<FloatImage>>()
function sheetMap(sheet: Sheet): Promise<FloatImage> {
  const file = sheet.files.find(f => f.role === 'environment')
  let loading = maps.get(sheet.version.id)
  if (!loading) {
    loading = fetch(file?.url ?? '')
      .then(response => response.arrayBuffer())
      .then(buffer => {
        const bytes = new Uint8Array(buffer)
        const source = sourceOfBytes(bytes)
        const rows = file?.mediaType === 'image/vnd.radiance' ? openHdr(source) : openExr(source)
        return rows.width > LIVE_MAP_WIDTH ? reduceRows(rows, LIVE_MAP_WIDTH) : collectRows(rows)
      })
    maps.set(sheet.version.id, loading)
  }
  return loading
}

function EnvironmentContent({ sheet, rig }: { sheet: Sheet; rig: Rig }) {
  const map = use(sheetMap(sheet))
  const balls = useMemo(() => [-1.35, 0, 1.35].map(x => toBufferGeometry(createSphere(0.5, [x, 0, 0]))), [])
  const view = useMemo(() => createCamera([0, 0.3, 6], [0, 0, 0], 35, PREVIEW_ASPECT), [])
  return (
    <>
      <Light map={map} rig={rig} visible />
      <RigCamera view={view} centre={[0, 0, 0]} reach={3} />
      <mesh geometry={balls[0]}>
        <meshStandardMaterial color={[0.5, 0.5, 0.5]} roughness={1} />
      </mesh>
      <mesh geometry={balls[1]}>
        <meshStandardMaterial color={[0.95, 0.95, 0.95]} roughness={0.02} metalness={1} />
      </mesh>
      <mesh geometry={balls[2]}>
        <meshStandardMaterial color={[0.03, 0.03, 0.03]} roughness={0.18} />
      </mesh>
    </>
  )
}

class LiveBoundary extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false }
  static getDerivedStateFromError = () => ({ failed: true })
  override render() {
    return this.state.failed ? (
      <p role="alert" className="flex h-full items-center justify-center bg-mount px-8 text-center">
        The live view could not be drawn: the browser has no WebGL 2, or a file did not load. The rendered preview is not
        affected.
      </p>
    ) : (
      this.props.children
    )
  }
}
