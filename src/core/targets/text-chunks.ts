import { strToU8 } from 'fflate'

const CHUNK_CHARS = 1 << 20

/** A long text, written piece by piece and encoded as it grows: meshes of millions of triangles are longer than a string may be. */
export class TextChunks {
  private readonly chunks: Uint8Array[] = []
  private pending: string[] = []
  private chars = 0

  write(text: string): void {
    this.pending.push(text)
    this.chars += text.length
    if (this.chars >= CHUNK_CHARS) this.flush()
  }

  /** All of it as UTF-8. */
  toBytes(): Uint8Array {
    this.flush()
    const bytes = new Uint8Array(this.chunks.reduce((sum, chunk) => sum + chunk.length, 0))
    let at = 0
    for (const chunk of this.chunks) {
      bytes.set(chunk, at)
      at += chunk.length
    }
    return bytes
  }

  private flush(): void {
    if (this.pending.length > 0) this.chunks.push(strToU8(this.pending.join('')))
    this.pending = []
    this.chars = 0
  }
}

/** The shortest decimal that is the same single-precision float to seven digits. */
export const shortFloat = (v: number): string => (v === 0 || !Number.isFinite(v) ? '0' : String(Number(v.toPrecision(7))))
