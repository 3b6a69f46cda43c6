import { useLayoutEffect, useRef } from 'react'
import { type BufferGeometry, type InstancedMesh, type Material, Matrix4 } from 'three'
import type { Affine } from '#core/math/affine'

const scratch = new Matrix4()
const toMatrix = (a: Affine): Matrix4 =>
  scratch.set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1)

interface InstancesProps {
  geometry: BufferGeometry
  material: Material
  placements: readonly Affine[]
  /** Whether light does not go through it. What does is taken to be drawn light or shadow itself, on which none falls. */
  throwsShadow?: boolean
}

/** One thing wherever it is placed. */
export function Instances({ geometry, material, placements, throwsShadow = false }: InstancesProps) {
  const mesh = useRef<InstancedMesh>(null)
  // Room for some more, so that not every copy makes it anew.
  const room = 2 ** Math.ceil(Math.log2(Math.max(1, placements.length)))
  // biome-ignore lint/correctness/useExhaustiveDependencies: with another room it is another mesh
  useLayoutEffect(() => {
    const { current } = mesh
    if (!current) return
    placements.forEach((to, k) => {
      current.setMatrixAt(k, toMatrix(to))
    })
    current.count = placements.length
    current.instanceMatrix.needsUpdate = true
  }, [placements, room, geometry, material])
  return (
    <instancedMesh
      key={room}
      ref={mesh}
      args={[geometry, material, room]}
      frustumCulled={false}
      castShadow={throwsShadow}
      receiveShadow={throwsShadow}
    />
  )
}
