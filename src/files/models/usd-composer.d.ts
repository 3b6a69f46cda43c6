declare module 'three/examples/jsm/loaders/usd/USDComposer.js' {
  import type { Light, Material, Object3D } from 'three'

  /** What the loader of OpenUSD puts its scene together with. */
  export class USDComposer {
    /** Gives a material what the one at `path` of the stage has. */
    _applyMaterial(material: Material, path: string): void
    /** Makes the light at `path` of the stage; undefined of a type that it does not know. */
    _buildLight(path: string, type: string): Light | undefined
    /** What the prim at `path` says, by the names of its attributes. */
    _getAttributes(path: string): Record<string, unknown>
    /** Puts together what a reference names; null where that is not there. */
    _resolveReference(reference: string, variants?: Record<string, string>): Object3D | null
  }
}
