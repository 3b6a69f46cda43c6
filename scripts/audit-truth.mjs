// What an audit says of a scene against what was planted: npm run -s audit-truth -- --seed N [--materials N] [--models N] [--verbose]
import { ensurePackages } from './setup.mjs'

await ensurePackages()
const { buildNode } = await import('./build.mjs')
await buildNode()
await import('../dist/node/audit-truth.js')
