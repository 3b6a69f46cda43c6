// What Intake finds against what was planted: npm run -s intake-truth -- --seed N [--verbose]
import { ensurePackages } from './setup.mjs'

await ensurePackages()
const { buildNode } = await import('./build.mjs')
await buildNode()
await import('../dist/node/intake-truth.js')
