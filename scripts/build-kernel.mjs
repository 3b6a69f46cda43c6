// Compiles the path tracer from AssemblyScript to WebAssembly, as a module that carries its bytes: one file for
// Node, browser workers and tests alike, with nothing to fetch.
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import asc from 'assemblyscript/asc'

const FLAGS = [
  '-O3',
  '--converge',
  '--noAssert',
  '--runtime',
  'stub',
  '--enable',
  'simd',
  '--importMemory',
  '--use',
  'abort=',
  '--memoryBase',
  '32768',
]

export async function compileKernel(root) {
  const folder = join(root, 'dist', 'kernel')
  mkdirSync(folder, { recursive: true })
  let binary = null
  const { error, stderr } = await asc.main(['src/kernel/kernel.ts', '--baseDir', root, '--outFile', 'kernel.wasm', ...FLAGS], {
    writeFile: (name, contents) => {
      if (name.endsWith('.wasm')) binary = Buffer.from(contents)
    },
  })
  if (error || !binary) throw new Error(`the traversal kernel does not compile: ${error?.message ?? ''}\n${stderr.toString()}`)
  // As text: so many numbers in one call are more than a browser's stack takes.
  const code = `export const kernelBytes = Uint8Array.from(atob('${binary.toString('base64')}'), c => c.charCodeAt(0))\n`
  writeFileSync(join(folder, 'kernel.js'), code)
  writeFileSync(join(folder, 'kernel.d.ts'), 'export declare const kernelBytes: Uint8Array<ArrayBuffer>\n')
}
