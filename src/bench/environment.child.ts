import { readFileSync } from 'node:fs'
import { HalfFloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js'
import { analyseEnvironmentRows } from '#core/environment/analyse-environment'
import { readEnvironmentRows } from '#files/reading/decode-environment'

/** A process of its own that opens one environment, and tells how long that took and its largest resident size in MB. */
const [how, type, path] = process.argv.slice(2)
const started = performance.now()
if (how === 'analyse') {
  const { facts, tiers } = readEnvironmentRows(path, type === 'hdr' ? 'hdr' : 'exr', rows =>
    analyseEnvironmentRows(rows, { withTiers: true }),
  )
  for (const tier of tiers)
    if (Math.abs(tier.horizontalIrradiance / facts.horizontalIrradiance - 1) > 0.005)
      throw new Error(`the tier of ${tier.image.width} px has lost light`)
} else {
  const bytes = readFileSync(path)
  const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength)
  const loader = type === 'hdr' ? new HDRLoader() : new EXRLoader()
  loader.setDataType(HalfFloatType).parse(buffer as ArrayBuffer)
}
const seconds = (performance.now() - started) / 1000
// Of this process alone; the figure of the resource usage begins with what its parent held.
const peak = /VmHWM:\s*(\d+) kB/.exec(readFileSync('/proc/self/status', 'utf8'))
process.send!({ seconds, mb: Number(peak?.[1]) / 1024 })
process.disconnect()
