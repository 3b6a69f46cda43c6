declare module 'three/examples/jsm/loaders/usd/USDComposer.js' {
  import type { Material } from 'three'

  /** What the loader of OpenUSD puts its scene together with. */
  export class USDComposer {
    /** Gives a material what the one at `path` of the stage has. */
    _applyMaterial(material: Material, path: string): void
  }
}
