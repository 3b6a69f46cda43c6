// How well things with known answers are found: npm run -s find-quality [-- --verbose]
import { ensurePackages } from './setup.mjs'

await ensurePackages()
const { buildNode } = await import('./build.mjs')
await buildNode()
await import('../dist/node/find-quality.js')
