import { kernelBytes } from '#kernel'

/** What the WebAssembly module of src/kernel can do. */
export interface Kernel {
  setRoots(all: number, solid: number, tinted: number): void
  setScene(address: number): void
  setView(address: number): void
  trace(px: number, py: number, sample: number, half: number): void
  tracePixel(px: number, py: number, from: number, until: number, half: number): void
  traceArea(x0: number, y0: number, width: number, height: number, from: number, until: number, half: number, dst: number): void
  closestHit(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number, among: number): number
  hitPlacementNumber(): number
  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): number
  buildTree(address: number): number
  buildTop(address: number): number
  writeTree(to: number, shift: number): number
  setFilter(address: number): void
  fitWindow(x: number, y: number): void
  halve(from: number, width: number, height: number, channels: number, to: number, light: number, code: number): void
}

const PAGE = 65536
const GROWN_AHEAD = 0.25
/** First byte after what the kernel has for itself: results, stack, tables, data of its own. */
export const KERNEL_END = 65536

let compiled: WebAssembly.Module | null = null

/** Where the trees over everything, over what is solid and over what tints begin. */
type Roots = [all: number, solid: number, tinted: number]

/** A memory as it was at a time, which threads share until each has made its own of it. */
export interface MemoryCopy {
  bytes: Uint8Array<SharedArrayBuffer>
  roots: Roots
}

/** The memory of a scene, and the kernel that works in it. Grows at its end; nothing in it is ever freed by itself. */
export class KernelMemory {
  /** Who it is set up for at the moment. */
  user: unknown = null
  /** Makes a table that the kernel asks for while it traces: hundredths of an index of refraction, and which of its tables. */
  onTable: (key: number, which: number) => number = () => 0
  readonly kernel: Kernel
  /** Of the trees; see {@link setRoots}. */
  private roots: Roots = [0, 0, 0]
  private lentAt = 0
  private lentBytes = 0

  private constructor(
    private readonly memory: WebAssembly.Memory,
    private end: number,
    accept: (triangle: number, u: number, v: number) => number,
  ) {
    compiled ??= new WebAssembly.Module(kernelBytes)
    const makeTable = (key: number, which: number) => this.onTable(key, which)
    const instance = new WebAssembly.Instance(compiled, { env: { memory, accept, makeTable } })
    this.kernel = instance.exports as unknown as Kernel
  }

  /**
   * A kernel with a memory of its own.
   * @param end what of it is taken already, bytes, from {@link KERNEL_END} on
   * @param accept asked whether a hit on a masked triangle counts
   */
  static open(end = KERNEL_END, accept: (triangle: number, u: number, v: number) => number = () => 1): KernelMemory {
    return new KernelMemory(new WebAssembly.Memory({ initial: Math.ceil(end / PAGE) }), end, accept)
  }

  /** Another one like it, with a kernel of its own, whose scene tells by itself what is cut out. */
  static reopen({ bytes, roots }: MemoryCopy): KernelMemory {
    const memory = KernelMemory.open(bytes.length)
    new Uint8Array(memory.buffer).set(bytes)
    memory.setRoots(...roots)
    return memory
  }

  copy(): MemoryCopy {
    const bytes = new Uint8Array(new SharedArrayBuffer(this.end))
    bytes.set(new Uint8Array(this.memory.buffer, 0, this.end))
    return { bytes, roots: this.roots }
  }

  /** Tells the kernel what rays are cast among. */
  setRoots(...roots: Roots): void {
    this.roots = roots
    this.kernel.setRoots(...roots)
  }

  /** Another one after the memory has grown. */
  get buffer(): ArrayBuffer {
    return this.memory.buffer
  }

  /** The address of so many bytes, all zero. */
  allocate(bytes: number): number {
    const at = Math.ceil(this.end / 16) * 16
    this.end = at + bytes
    if (this.end > this.memory.buffer.byteLength) this.grow()
    return at
  }

  /** By more than is missing: each growing takes its time, however little it is by, and what is never written to takes no room. */
  private grow(): void {
    const { byteLength } = this.memory.buffer
    const missing = Math.ceil((this.end - byteLength) / PAGE)
    try {
      this.memory.grow(Math.max(missing, Math.ceil((byteLength * GROWN_AHEAD) / PAGE)))
    } catch {
      // Near the most that there may be.
      this.memory.grow(missing)
    }
  }

  /** Forgets all that was allocated; what is allocated next is zero again. */
  clear(): void {
    new Uint8Array(this.memory.buffer).fill(0, KERNEL_END, this.end)
    this.end = KERNEL_END
    this.lentBytes = 0
  }

  /** The address of so many bytes for whoever is at work; the next one who asks gets the same ones. */
  lend(bytes: number): number {
    if (bytes > this.lentBytes) {
      this.lentBytes = bytes
      this.lentAt = this.allocate(bytes)
    }
    return this.lentAt
  }

  get bytes(): number {
    return this.end
  }
}
