/** What the core uses of WebAssembly, which TypeScript declares together with the DOM only. */
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array<ArrayBuffer>)
  }
  class Memory {
    constructor(descriptor: { initial: number })
    grow(pages: number): number
    readonly buffer: ArrayBuffer
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>)
    readonly exports: Record<string, unknown>
  }
}
