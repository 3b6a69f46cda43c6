import type { Accessor } from '@gltf-transform/core'

/** Every element of an accessor as floats, `size` numbers each: what is stored, where it is stored so, hence to be read only. */
export function accessorFloats(accessor: Accessor, size: number): Float32Array {
  const stored = accessor.getArray()
  if (stored instanceof Float32Array && accessor.getElementSize() === size) return stored
  const values = new Float32Array(accessor.getCount() * size)
  const element: number[] = []
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element)
    for (let c = 0; c < size; c++) values[i * size + c] = element[c]
  }
  return values
}
