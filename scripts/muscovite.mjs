import { ensurePackages } from './setup.mjs'

await ensurePackages()
const { buildNode } = await import('./build.mjs')
await buildNode()
await import('../dist/node/muscovite.js')
