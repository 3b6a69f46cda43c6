import { useGLTF } from '@react-three/drei'
import { Canvas, useFrame, useThree } from '@react-three/fiber'
import { Component, type ReactNode, Suspense, use, useCallback, useEffect, useMemo, useRef } from 'react'
import { type Material, type MeshPhysicalMaterial, MeshStandardMaterial, NeutralToneMapping, PerspectiveCamera } from 'three'
import { computeBounds, type Mesh, mergeMeshes } from '#core/geometry/mesh'
import { createSphere } from '#core/geometry/shapes'
import type { FloatImage } from '#core/image/image'
import { createMaterial, type OpenPbrMaterial } from '#core/material/open-pbr'
import { add, scale, subtract, type Vec3 } from '#core/math/vec3'
import { type Camera, createCamera, type Orbit, orbitCamera, pivotBeside } from '#core/render/film/camera'
import { createHouseLightMap } from '#core/render/lights/house-light'
import { PREVIEW_ASPECT, type Rig } from '#core/render/rigs/rig'
import { letsLightThrough } from '#core/render/scene/scene'
import { type StagedSubject, stageSubject } from '#core/render/stages/stage-subject'
import { createBackdrop } from '#core/render/stages/surroundings'
import type { Sheet } from '#shared/contracts/items.contract'
import { OPENED_SIDES, screenCopyOf } from '#shared/picture-widths'
import { readSky } from '../workers/read-sky'
import { toBufferGeometry, toTriangles } from './core-geometry'
import { createEnvironmentTexture, exposureGain } from './environment-texture'
import { GroundShadow, meshesOf, trianglesOf } from './GroundShadow'
import { GLASS, loadSheetMaterial } from './material-from-sheet'
import { drawsOnProcessor } from './on-processor'
import { useResolution } from './use-resolution'

interface ViewProps {
  sheet: Sheet
  /** How far one has gone round it from where the rig's camera stands. */
  orbit: Orbit
  /** Told once, when there is something to see. */
  onDrawn: () => void
}

/** The item in three dimensions, on the rig of its category: same stage, light, camera and display transform as its preview. */
export default function LiveView({ sheet, orbit, onDrawn }: ViewProps) {
  const { dpr, watch } = useResolution()
  return (
    <LiveBoundary key={sheet.version.id}>
      <Canvas
        gl={{ toneMapping: NeutralToneMapping, antialias: !drawsOnProcessor(), preserveDrawingBuffer: true }}
        dpr={dpr}
        frameloop="demand"
      >
        {watch}
        <Suspense fallback={null}>
          <Content sheet={sheet} orbit={orbit} />
          <FirstFrame onDrawn={onDrawn} />
        </Suspense>
      </Canvas>
    </LiveBoundary>
  )
}

/** The second frame is the first in which the light is there. */
function FirstFrame({ onDrawn }: Pick<ViewProps, 'onDrawn'>) {
  const frames = useRef(0)
  const invalidate = useThree(three => three.invalidate)
  useFrame(() => {
    frames.current++
    if (frames.current < 3) invalidate()
    if (frames.current === 3) onDrawn()
  })
  return null
}

type ContentProps = Pick<ViewProps, 'sheet' | 'orbit'>

function Content(props: ContentProps) {
  const { kind } = props.sheet
  switch (kind) {
    case 'material':
      return <MaterialContent {...props} />
    case 'model':
      return <ModelContent {...props} />
    case 'environment':
      return <EnvironmentContent {...props} />
    case 'light':
    case 'map':
      // What a luminaire throws is drawn as its curve; a map is flat.
      return null
    default:
      return kind satisfies never
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

/** Stands where the rig's camera stands, gone round the pivot. */
function RigCamera({ rigCamera, pivot, orbit }: { rigCamera: Camera; pivot: Vec3; orbit: Orbit }) {
  const { camera, size, invalidate } = useThree()
  useEffect(() => {
    if (!(camera instanceof PerspectiveCamera)) return
    const seen = orbitCamera(rigCamera, pivot, orbit)
    const reach = Math.hypot(...subtract(seen.position, pivot))
    camera.position.set(...seen.position)
    camera.lookAt(...add(seen.position, seen.forward))
    camera.fov = (2 * Math.atan(seen.tanHalfHeight) * 180) / Math.PI
    camera.near = reach / 400
    camera.far = reach * 100
    camera.aspect = size.width / size.height
    camera.updateProjectionMatrix()
    invalidate()
  }, [camera, rigCamera, pivot, orbit, size, invalidate])
  return null
}

interface StageProps {
  staged: StagedSubject
  /** Its triangles, for the shadow. */
  casters: () => Float32Array<ArrayBuffer>
  rig: Rig
  /** Of the backdrop: as in the item's picture. */
  albedo: number
  orbit: Orbit
  children: ReactNode
}

const albedoOf = ({ preview, rig }: Sheet): number => preview?.backdropAlbedo ?? rig.backdrops[0]

function Stage({ staged, casters, rig, albedo, orbit, children }: StageProps) {
  const { pivot, centre, backdrop, ground } = useMemo(() => {
    const around = mergeMeshes([...staged.subject, ...staged.extras].map(o => o.mesh))
    const middle = middleOf(mergeMeshes(staged.subject.map(o => o.mesh)))
    const { min, max } = computeBounds(around.positions)
    const side = 2.4 * Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2])
    return {
      pivot: pivotBeside(staged.camera, middle),
      centre: [(min[0] + max[0]) / 2, 0, (min[2] + max[2]) / 2] as Vec3,
      ground: { x: middle[0], y: min[1], z: middle[2], side },
      backdrop: toBufferGeometry(createBackdrop(around, staged.camera, albedo, staged.backdrop).mesh),
    }
  }, [staged, albedo])
  return (
    <>
      <Light map={houseLight()} rig={rig} />
      <RigCamera rigCamera={staged.camera} pivot={pivot} orbit={orbit} />
      {/* Behind the subject, from wherever it is looked at. */}
      <group position={centre} rotation-y={orbit.yawRad}>
        <mesh geometry={backdrop} position={scale(centre, -1)}>
          <meshStandardMaterial color={[albedo, albedo, albedo]} roughness={0.9} side={2} />
        </mesh>
      </group>
      {staged.backdrop.drop === 0 && <GroundShadow casters={casters} rig={rig} ground={ground} />}
      {children}
    </>
  )
}

function middleOf({ positions }: Mesh): Vec3 {
  const { min, max } = computeBounds(positions)
  return [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
}

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

/** Stands for the item's own material among those of the stage. */
const OWN = createMaterial('the item')

function MaterialContent({ sheet, orbit }: ContentProps) {
  const { rig } = sheet
  const material = use(sheetMaterial(sheet))
  const staged = useMemo(() => stageSubject({ kind: 'material', material: OWN, images: [] }, rig), [rig])
  const objects = useMemo(() => [...staged.subject, ...staged.extras], [staged])
  const isGlass = Number(sheet.constants.transmissionWeight ?? 0) > 0.5
  const casters = useCallback(() => {
    const solid = objects.filter(o => (o.material === OWN ? !isGlass : !letsLightThrough(o.material)))
    return toTriangles(solid.map(o => o.mesh))
  }, [objects, isGlass])
  const heightMm = sheet.facts.find(f => f.name === 'heightMm')?.value
  const widthM = (sheet.widthMm ?? 1000) / 1000
  const heightM = typeof heightMm === 'number' ? heightMm / 1000 : widthM
  const shown = useMemo(
    () => objects.map(o => ({ geometry: toBufferGeometry(o.mesh, [widthM, heightM]), isOwn: o.material === OWN })),
    [objects, widthM, heightM],
  )
  return (
    <Stage {...{ staged, casters, rig, orbit }} albedo={albedoOf(sheet)}>
      {shown.map(({ geometry, isOwn }) =>
        isOwn ? (
          <mesh key={geometry.uuid} geometry={geometry} material={material} />
        ) : (
          <mesh key={geometry.uuid} geometry={geometry}>
            <meshPhysicalMaterial {...GLASS} roughness={0} ior={1.4} side={2} />
          </mesh>
        ),
      )}
    </Stage>
  )
}

/** As far as a rig asks: where it glows, and where it is thin or cut out. */
function stageMaterialOf(material: Material): OpenPbrMaterial {
  if (!(material instanceof MeshStandardMaterial)) return OWN
  const glows = material.emissive.getHex() !== 0
  const isLeaf = material.alphaTest > 0 || material.transparent
  return createMaterial(material.name, {
    ...(glows ? { emissionLuminance: 100, emissionColor: [1, 1, 1] } : {}),
    geometryThinWalled: isLeaf,
  })
}

function ModelContent({ sheet, orbit }: ContentProps) {
  const { rig } = sheet
  const file = sheet.files.find(f => f.role === 'model')
  const { scene } = useGLTF(file ? screenCopyOf(file.url, OPENED_SIDES.model[0]) : '', false, false)
  const casters = useCallback(() => trianglesOf(scene), [scene])
  const staged = useMemo(() => {
    const objects = meshesOf(scene).map(({ positions, material }) => ({
      mesh: {
        positions,
        normals: new Float32Array(positions.length),
        uvs: new Float32Array((positions.length / 3) * 2),
        indices: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
      },
      material: stageMaterialOf(material),
      images: [],
    }))
    return stageSubject({ kind: 'model', objects }, rig)
  }, [scene, rig])
  const extras = useMemo(
    () => staged.extras.map(o => ({ geometry: toBufferGeometry(o.mesh), color: o.material.parameters.baseColor[0] })),
    [staged],
  )
  return (
    <Stage {...{ staged, casters, rig, orbit }} albedo={albedoOf(sheet)}>
      <primitive object={scene} />
      {extras.map(({ geometry, color }) => (
        <mesh key={geometry.uuid} geometry={geometry}>
          <meshStandardMaterial color={[color, color, color]} roughness={0.6} />
        </mesh>
      ))}
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
    loading = fetch(file ? screenCopyOf(file.url, LIVE_MAP_WIDTH) : '')
      .then(response => response.blob())
      .then(readSky)
    maps.set(sheet.version.id, loading)
  }
  return loading
}

const ORIGIN: Vec3 = [0, 0, 0]

function EnvironmentContent({ sheet, orbit }: ContentProps) {
  const { rig } = sheet
  const map = use(sheetMap(sheet))
  const balls = useMemo(() => [-1.35, 0, 1.35].map(x => toBufferGeometry(createSphere(0.5, [x, 0, 0]))), [])
  const view = useMemo(() => createCamera([0, 0.3, 6], [0, 0, 0], 35, PREVIEW_ASPECT), [])
  return (
    <>
      <Light map={map} rig={rig} visible />
      <RigCamera rigCamera={view} pivot={ORIGIN} orbit={orbit} />
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
