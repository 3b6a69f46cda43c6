import { useThree } from '@react-three/fiber'
import { useEffect, useState } from 'react'
import {
  DataTexture,
  LinearFilter,
  type Material,
  type Object3D,
  RGBAFormat,
  Mesh as ThreeMesh,
  UnsignedByteType,
  Vector3,
} from 'three'
import { encodeSrgb } from '#core/color/srgb'
import type { Ground } from '#core/render/pictures/ground-shadow'
import type { Rig } from '#core/render/rigs/rig'
import type { ShadowAnswer, ShadowOrder } from '../workers/shadow.worker'

const SIZE_PX = 128
/** The shadow lies so far above the ground, in shares of its side, that the two do not fight for a pixel. */
const GAP = 0.001

interface Props {
  /** Everything that throws a shadow, 9 floats for each triangle; asked for once. */
  casters: () => Float32Array<ArrayBuffer>
  rig: Rig
  ground: Ground
}

/** The shadow of the rig's light on the ground, traced in a worker while the view is there already. */
export function GroundShadow({ casters, rig, ground }: Props) {
  const invalidate = useThree(s => s.invalidate)
  const [texture, setTexture] = useState<DataTexture | null>(null)
  useEffect(() => {
    const worker = new Worker(new URL('../workers/shadow.worker.ts', import.meta.url), { type: 'module' })
    let made: DataTexture | null = null
    worker.onmessage = ({ data }: MessageEvent<ShadowAnswer>) => {
      made = toShadowTexture(data, SIZE_PX)
      setTexture(made)
      invalidate()
      worker.terminate()
    }
    const positions = casters()
    const order: ShadowOrder = { positions, rig, ground, sizePx: SIZE_PX }
    worker.postMessage(order, [positions.buffer])
    return () => {
      worker.terminate()
      made?.dispose()
    }
  }, [casters, rig, ground, invalidate])
  return (
    texture && (
      <mesh position={[ground.x, ground.y + ground.side * GAP, ground.z]} rotation={[-Math.PI / 2, 0, 0]}>
        <planeGeometry args={[ground.side, ground.side]} />
        <meshBasicMaterial map={texture} transparent depthWrite={false} />
      </mesh>
    )
  )
}

/** Black, as dense as the light is missing; what is drawn over is encoded for display already. */
export function toShadowTexture(shares: Float32Array, sizePx: number): DataTexture {
  const data = new Uint8Array(sizePx * sizePx * 4)
  for (let p = 0; p < shares.length; p++) {
    // Rows go down in z, and up in the plane's picture.
    const to = (sizePx - 1 - Math.floor(p / sizePx)) * sizePx + (p % sizePx)
    data[to * 4 + 3] = Math.round(255 * (1 - encodeSrgb(Math.min(1, shares[p]))))
  }
  const texture = new DataTexture(data, sizePx, sizePx, RGBAFormat, UnsignedByteType)
  texture.magFilter = LinearFilter
  texture.minFilter = LinearFilter
  texture.needsUpdate = true
  return texture
}

/** All triangles below a node, in the world's metres. */
export function trianglesOf(root: Object3D): Float32Array<ArrayBuffer> {
  const meshes = meshesOf(root)
  const out = new Float32Array(meshes.reduce((sum, m) => sum + m.positions.length, 0))
  let at = 0
  for (const { positions } of meshes) {
    out.set(positions, at)
    at += positions.length
  }
  return out
}

/** The triangles of each mesh below a node, 9 floats each, in the world's metres. */
export function meshesOf(root: Object3D): { positions: Float32Array<ArrayBuffer>; material: Material }[] {
  const meshes: ThreeMesh[] = []
  root.updateWorldMatrix(true, true)
  root.traverse(node => {
    if (node instanceof ThreeMesh) meshes.push(node)
  })
  const corner = new Vector3()
  return meshes.map(({ geometry, material, matrixWorld }) => {
    const count = Math.floor((geometry.index ?? geometry.attributes.position).count / 3) * 3
    const positions = new Float32Array(count * 3)
    for (let i = 0; i < count; i++) {
      corner.fromBufferAttribute(geometry.attributes.position, geometry.index?.getX(i) ?? i).applyMatrix4(matrixWorld)
      corner.toArray(positions, i * 3)
    }
    return { positions, material: Array.isArray(material) ? material[0] : material }
  })
}
